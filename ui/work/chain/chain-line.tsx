'use client';
import { useState } from 'react';
import { MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { PROCESSOR_WORDS, processorName } from '@/core/formats';
import { emptyEqualizer, MOST_PROCESSORS, newId, PROCESSOR_KINDS, type ChainProcessor } from '@/core/song';
import { Menu, MenuItem, MenuPanel } from '../../kit/controls/menu';
import { TextButton } from '../../kit/controls/button';
import { useDesk, type Desk } from '../../window/desk/desk';
import { carryEqualizer } from '../../window/song/carry';
import { copyOfProcessor } from '../../window/song/equalizer-edits';
import { addProcessor, moveProcessor, removeProcessor, startOf } from '../../window/song/processor-edits';
import { stripName, useChosenProcessor, useChosenStrip, useSelection } from '../../window/song/selection';
import { isDeleteKey } from '../../kit/gestures/plain-key';

/** A processor that is dragged along its own line. */
const TYPE = 'application/x-orvid-place';

/** What stands in the way of the chosen strip's sound, from left to right: names on a thread, a knot between them. */
export function ChainLine() {
  const desk = useDesk();
  const strip = useChosenStrip();
  const shown = useChosenProcessor();
  const { chain } = strip;
  const [targetId, setTargetId] = useState<string | null>(null);
  const onKeyDown = (event: React.KeyboardEvent, processor: ChainProcessor) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const at = chain.indexOf(processor);
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const next = step === undefined ? undefined : chain[at + step];
    if (next) {
      useSelection.of(desk).chooseProcessor(next.id);
      focusName(next.id);
    } else if (isDeleteKey(event)) {
      removeProcessor(desk, strip.id, processor.id);
      const left = chain[at + 1] ?? chain[at - 1];
      if (left) focusName(left.id);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const onDrop = (event: React.DragEvent, at: number) => {
    const [stripId, processorId] = event.dataTransfer.getData(TYPE).split('/');
    setTargetId(null);
    if (stripId !== strip.id) return;
    event.preventDefault();
    event.stopPropagation();
    moveProcessor(desk, stripId, processorId, at);
  };
  return (
    <Line role="toolbar" aria-label={`Chain of ${stripName(strip)}`}>
      {chain.map((processor, i) => (
        <Name
          key={processor.id}
          type="button"
          draggable
          data-processor={processor.id}
          data-target={targetId === processor.id || undefined}
          aria-pressed={processor.id === shown?.id}
          aria-label={`${processorName(processor)}${processor.enabled ? '' : ', off'}`}
          tabIndex={processor.id === shown?.id ? 0 : -1}
          $off={!processor.enabled}
          data-hint="← → choose, Alt Shift ← → move it along, Delete removes it · drag it along the line, off it to remove it, or on a lane to copy it there · Ctrl C copies it"
          onClick={() => useSelection.of(desk).chooseProcessor(processor.id)}
          onKeyDown={(event) => onKeyDown(event, processor)}
          onDragStart={(event) => {
            carryEqualizer(event.dataTransfer, copyOfProcessor(processor));
            event.dataTransfer.setData(TYPE, `${strip.id}/${processor.id}`);
            event.dataTransfer.effectAllowed = 'copyMove';
            dropOffTheLine(event.currentTarget, () => removeProcessor(desk, strip.id, processor.id));
          }}
          onDragOver={(event) => {
            if (!event.dataTransfer.types.includes(TYPE)) return;
            event.preventDefault();
            event.stopPropagation();
            event.dataTransfer.dropEffect = 'move';
            setTargetId(processor.id);
          }}
          onDragLeave={() => setTargetId(null)}
          onDrop={(event) => onDrop(event, i)}
        >
          {processorName(processor)}
        </Name>
      ))}
      {chain.length < MOST_PROCESSORS && <AddProcessor />}
    </Line>
  );
}

const OFF_THE_LINE = 24;

/** While a name is dragged, what lies well outside its line takes it: dropped there it is removed. */
function dropOffTheLine(name: HTMLElement, remove: () => void): void {
  const taken = (event: DragEvent) => {
    const line = name.parentElement!.getBoundingClientRect();
    const isOff = event.clientY < line.top - OFF_THE_LINE || event.clientY > line.bottom + OFF_THE_LINE;
    if (!isOff || (event.target as Element).closest('[data-takes-copies]')) return false;
    // The page, which takes recordings, would refuse it.
    event.preventDefault();
    event.stopPropagation();
    return true;
  };
  const over = (event: DragEvent) => {
    if (taken(event) && event.dataTransfer) event.dataTransfer.dropEffect = 'move';
  };
  const ended = new AbortController();
  document.addEventListener('dragover', over, { capture: true, signal: ended.signal });
  document.addEventListener('drop', (event) => taken(event) && remove(), { capture: true, signal: ended.signal });
  document.addEventListener('dragend', () => ended.abort(), { capture: true, signal: ended.signal });
}

const focusName = (id: string) =>
  requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-processor="${id}"]`)?.focus());

/** Adds one of a kind behind the one on the bench. */
export function addOfKind(desk: Desk, kind: ChainProcessor['kind']): void {
  const processor = kind === 'equalizer' ? emptyEqualizer(newId(10)) : startOf(desk, kind);
  addProcessor(desk, processor, `Add: ${PROCESSOR_WORDS[kind].name.toLowerCase()}`);
}

export const ADDABLE: readonly ChainProcessor['kind'][] = ['equalizer', ...PROCESSOR_KINDS];

function AddProcessor() {
  const desk = useDesk();
  return (
    <MenuTrigger>
      <TextButton aria-label="Add a processor" data-hint="Adds a processor behind this one">
        +
      </TextButton>
      <MenuPanel placement="bottom start">
        <Menu aria-label="Kind of processor" onAction={(kind) => addOfKind(desk, kind as ChainProcessor['kind'])}>
          {ADDABLE.map((kind) => (
            <MenuItem key={kind} id={kind} textValue={PROCESSOR_WORDS[kind].name}>
              {PROCESSOR_WORDS[kind].name}: {PROCESSOR_WORDS[kind].what}
            </MenuItem>
          ))}
        </Menu>
      </MenuPanel>
    </MenuTrigger>
  );
}

const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 22px;
  min-width: 0;
  padding: 0 10px;
  border-bottom: 1px solid var(--grid);
  background: var(--field);
  overflow-x: auto;
  scrollbar-width: none;
  white-space: nowrap;
`;
/** The thread runs from each name to the next; its knot is a small ring on it. */
const Name = styled.button<{ $off: boolean }>`
  position: relative;
  min-height: 24px;
  padding: 0 1px;
  border: 0;
  border-bottom: 2px solid var(--unseen);
  background: none;
  color: var(--soft);
  cursor: default;
  ${({ $off }) => $off && 'text-decoration: line-through;'}
  &:hover {
    color: var(--ink);
  }
  &[aria-pressed='true'] {
    border-bottom-color: var(--accent);
    color: var(--ink);
    font-weight: 600;
  }
  &[data-target] {
    color: var(--accent);
  }
  & + &::before {
    content: '';
    position: absolute;
    top: 12px;
    left: -20px;
    width: 16px;
    height: 1px;
    background: var(--rule);
  }
  & + &::after {
    content: '';
    position: absolute;
    top: 10px;
    left: -14px;
    width: 5px;
    height: 5px;
    border: 1px solid var(--soft);
    border-radius: 50%;
    background: var(--field);
  }
`;
