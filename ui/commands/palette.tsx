'use client';
import { Command } from 'cmdk';
import { useState } from 'react';
import styled from 'styled-components';
import { newBandSettings } from '@/core/song';
import { bandSummary, parseBandPhrase } from '@/core/formats';
import { Dialog, KeyName } from '../controls';
import { typeName } from '../signs';
import { addBand } from '../song';
import { useCommands, useCommandStore } from './command-store';
import { keyName } from './keys';

/** Every command with its key; a band in words is added at once. */
export function Palette() {
  const palette = useCommandStore((store) => store.palette);
  const close = () => useCommandStore.getState().setPalette('closed');
  return (
    <Dialog
      title={palette === 'add-band' ? 'Add a band' : 'Commands'}
      isOpen={palette !== 'closed'}
      onClose={close}
      width={480}
    >
      <Search isForBands={palette === 'add-band'} onDone={close} />
    </Dialog>
  );
}

function Search({ isForBands, onDone }: { isForBands: boolean; onDone: () => void }) {
  const [text, setText] = useState('');
  const commands = useCommands();
  const phrase = parseBandPhrase(text);
  const { type, frequencyHz, ...given } = phrase ?? { type: 'bell' as const, frequencyHz: 1000 };
  const band = { ...newBandSettings(type, frequencyHz), ...given };
  const done = (work: () => void) => () => {
    onDone();
    work();
  };
  return (
    <Box label={isForBands ? 'Band in words' : 'Commands'} shouldFilter={!phrase} loop>
      <Command.Input
        autoFocus
        value={text}
        onValueChange={setText}
        placeholder={isForBands ? 'bell 2.5k −3' : 'A command, or a band: bell 2.5k −3'}
      />
      <Command.List>
        {phrase && (
          <Command.Item value="add this band" onSelect={done(() => addBand(phrase))}>
            Add: {typeName(type)}, {bandSummary(band)}
            <KeyName>Enter</KeyName>
          </Command.Item>
        )}
        {!phrase && isForBands && (
          <Help>
            A kind, a frequency or note, a gain, a width: “bell 2.5k −3”, “high-pass 120”, “notch 50 Q 20”, “low shelf
            A2 +2”.
          </Help>
        )}
        {!phrase && !isForBands && <Command.Empty>No such command.</Command.Empty>}
        {!phrase &&
          !isForBands &&
          commands.map((command) => (
            <Command.Item key={command.id} value={command.name} onSelect={done(command.run)}>
              {command.name}
              {command.key && <KeyName>{keyName(command.key)}</KeyName>}
            </Command.Item>
          ))}
      </Command.List>
    </Box>
  );
}

const Box = styled(Command)`
  [cmdk-input] {
    width: 100%;
    height: 32px;
    padding: 0 9px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
    font-size: 15px;
  }
  [cmdk-list] {
    max-height: 46vh;
    margin-top: 8px;
    overflow-y: auto;
  }
  [cmdk-item] {
    display: flex;
    justify-content: space-between;
    gap: 20px;
    padding: 4px 9px;
  }
  [cmdk-item][data-selected='true'] {
    background: var(--grid);
  }
  [cmdk-item][data-selected='true'] kbd {
    color: var(--ink);
  }
  [cmdk-empty] {
    padding: 8px 9px;
    color: var(--soft);
  }
`;
const Help = styled.p`
  padding: 6px 9px;
  color: var(--soft);
`;
