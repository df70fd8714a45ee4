'use client';
import { Command } from 'cmdk';
import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { useDesk } from '../../window/desk/desk';
import { Dialog } from '../../kit/controls/dialog';
import { KeyName } from '../../kit/controls/menu';
import { useCommands, useCommandStore } from '../../window/commands/command-store';
import { keyName } from '../../window/commands/keys';
import { answer, nearAnswer } from './find-command';
import { readPhrase } from './phrases';
import { useSong } from '../../window/song/song-store';

/** Every command with its key; a band in words is added at once. */
export function Palette() {
  const desk = useDesk();
  const palette = useCommandStore((store) => store.palette);
  const close = () => useCommandStore.of(desk).setPalette('closed');
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
  const desk = useDesk();
  const [text, setText] = useState('');
  const list = useRef<HTMLDivElement>(null);
  // What Enter runs stands first: it is never scrolled away by what was looked at before.
  useEffect(() => {
    list.current?.scrollTo(0, 0);
  }, [text]);
  const commands = useCommands();
  const song = useSong((now) => now);
  const phrases = readPhrase(desk, song, text);
  const isPhrase = phrases.length > 0;
  const isAnswered = commands.some(({ name, also }) => answer(name, text, also) > 0);
  const done = (work: () => void) => () => {
    onDone();
    work();
  };
  return (
    <Box
      label={isForBands ? 'Band in words' : 'Commands'}
      shouldFilter={!isPhrase}
      filter={isAnswered ? answer : nearAnswer}
      loop
    >
      <Command.Input
        autoFocus
        value={text}
        onValueChange={setText}
        placeholder={isForBands ? 'bell 2.5k −3' : 'A command, a band: bell 2.5k −3, or: mute claps'}
      />
      <Command.List ref={list}>
        {phrases.map(({ says, run }, i) => (
          <Command.Item key={says} value={says} disabled={run === null} onSelect={run ? done(run) : undefined}>
            {says}
            {i === 0 && run && <KeyName>Enter</KeyName>}
          </Command.Item>
        ))}
        {text.trim() !== '' && !isPhrase && isForBands && (
          <Help role="status">
            “{text.trim().split(/\s+/)[0]}” is no kind of band: bell, shelf, low shelf, high shelf, notch, tilt,
            high-pass (hp), low-pass (lp), band-pass, all-pass, twin shelf.
          </Help>
        )}
        {!isPhrase && isForBands && (
          <Help>
            A kind, a frequency or note, a gain or slope, a width: “bell 2.5k −3”, “hp 120 18”, “notch 50 Q 20”, “low
            shelf A2 +2”.
          </Help>
        )}
        {!isPhrase && !isForBands && (
          <Command.Empty>
            No such command. In words: “mute claps”, “solo cello”, “level cello −3”, “pan cello L30”, “go dulcimer”.
          </Command.Empty>
        )}
        {!isPhrase &&
          !isForBands &&
          commands.map((command) => (
            <Command.Item key={command.id} value={command.name} keywords={command.also} onSelect={done(command.run)}>
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
    /* Answers change places as one types: what was first is not followed to where it goes. */
    overflow-anchor: none;
  }
  [cmdk-item] {
    display: flex;
    justify-content: space-between;
    gap: 20px;
    padding: 4px 9px;
  }
  [cmdk-item][data-selected='true'] {
    background: var(--grid);
    /* Where the system chooses the colours, this is what is seen of it. */
    outline: 1px solid transparent;
    outline-offset: -1px;
  }
  [cmdk-item][data-selected='true'] kbd {
    color: var(--ink);
  }
  [cmdk-item][data-disabled='true'] {
    color: var(--accent);
    background: none !important;
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
