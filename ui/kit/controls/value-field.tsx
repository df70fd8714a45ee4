'use client';
import { useEffect, useRef, useState } from 'react';
import { FieldError, Input as AriaInput, TextField } from 'react-aria-components';
import styled, { css } from 'styled-components';
import { Nearest, possible, type Typed } from '@/core/formats';
import { stepSize, type StepSize } from '../gestures/steps';
import { announce } from './announcer';

interface ValueFieldProps<T> {
  label: string;
  /** The value as it is shown, with its unit. */
  shown: string;
  /** Turns what was typed into a value, or the nearest that is possible; null for what cannot be read. */
  parse: (text: string) => Typed<T>;
  onCommit: (value: T) => void;
  /** Steps by arrow keys while it is not being typed in: +1 or −1, with the size of the step. */
  onStep?: (direction: 1 | -1, size: StepSize) => void;
  /** How to write it, for the error: “2.5k, A4, 440”. */
  example: string;
  hint?: string;
  placeholder?: string;
  maxLength?: number;
  /** CSS pixels; all there is room for without it. */
  width?: number;
  /** `figure`: a number in a frame; `plain`: one without, in a row of many; `line`: words in a frame; `note`: words on a rule; `title`: a frame on demand. */
  look?: 'figure' | 'plain' | 'line' | 'note' | 'title';
  /** True where it is reached from what it stands in, and not by Tab. */
  isInList?: boolean;
  id?: string;
}

/** What is done elsewhere. */
const DONE = ['pointerdown', 'keydown'] as const;

/** What is being typed, and what it is for: the target stays the one that was shown when typing began. */
interface Typing<T> {
  text: string;
  isWrong: boolean;
  /** The word how to write it has been there until something else was done: from then on it is there where one points or types. */
  isRead?: boolean;
  label: string;
  shown: string;
  parse: (text: string) => Typed<T>;
  commit: (value: T) => void;
}

const NEAREST = 'The nearest that is possible';

/** Hands on what was typed, but where it is what it was. @returns what it was read as; null for what cannot be read */
function handOn<T>({ text, label, shown, parse, commit }: Typing<T>): Typed<T | string> {
  if (text.trim() === shown) return shown;
  const typed = parse(text.trim());
  const value = possible(typed);
  if (value !== null) commit(value);
  if (typed instanceof Nearest) announce(`${label}: ${NEAREST.toLowerCase()}`);
  return typed;
}

/**
 * A line that takes a typed value. Enter keeps it, and so does leaving the field, by whatever way; Escape brings back the old value. What
 * cannot be read stays, marked, with a word how to write it; what goes too far is brought to the nearest that is possible, and that is said.
 * Give it the `key` of what it is about.
 */
export function ValueField<T>({
  label,
  shown,
  parse,
  onCommit,
  onStep,
  example,
  hint,
  placeholder,
  maxLength,
  width,
  look = 'figure',
  isInList = false,
  id,
}: ValueFieldProps<T>) {
  const [typing, setTyping] = useState<Typing<T> | null>(null);
  const [isNearest, setNearest] = useState(false);
  const latest = useRef<Typing<T> | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const change = (next: Typing<T> | null) => {
    latest.current = next;
    setTyping(next);
  };

  const keep = () => {
    const { current } = latest;
    if (!current) return;
    // Handed on once, also where that takes the field away.
    latest.current = null;
    const typed = handOn(current);
    change(typed === null ? { ...current, isWrong: true } : null);
    setNearest(typed instanceof Nearest);
  };

  // Taken away with something typed in it: by a click elsewhere that shows another thing in its place.
  useEffect(
    () => () => {
      const { current } = latest;
      latest.current = null;
      if (current) handOn(current);
    },
    [],
  );

  const isToBeRead = isNearest || (typing !== null && typing.isWrong && !typing.isRead);
  useEffect(() => {
    if (!isToBeRead) return;
    const read = () => {
      setNearest(false);
      latest.current = latest.current && { ...latest.current, isRead: true };
      setTyping(latest.current);
    };
    for (const done of DONE) window.addEventListener(done, read);
    return () => DONE.forEach((done) => window.removeEventListener(done, read));
  }, [isToBeRead]);

  const onKeyDown = (event: React.KeyboardEvent) => {
    // Where characters are put together from several keys, Enter and the arrows choose among them.
    if (event.nativeEvent.isComposing) {
      event.stopPropagation();
      return;
    }
    if (event.key === 'Enter') {
      keep();
      input.current?.select();
    } else if (event.key === 'Escape' && typing) change(null);
    else if ((event.key === 'ArrowUp' || event.key === 'ArrowDown') && onStep) {
      event.preventDefault();
      change(null);
      onStep(event.key === 'ArrowUp' ? 1 : -1, stepSize(event));
    } else return;
    event.stopPropagation();
  };

  return (
    <Wrap
      aria-label={label}
      id={id}
      value={typing?.text ?? shown}
      onChange={(text) =>
        change({
          ...(latest.current ?? { label, shown, parse, commit: onCommit }),
          text,
          isWrong: false,
          isRead: false,
        })
      }
      isInvalid={typing?.isWrong ?? false}
      validationBehavior="aria"
      maxLength={maxLength}
      excludeFromTabOrder={isInList}
      data-hint={hint}
      data-look={look}
      data-read={typing?.isRead || undefined}
    >
      <Input
        ref={input}
        $look={look}
        style={width === undefined ? undefined : { width }}
        placeholder={placeholder}
        data-figure={look === 'figure' || look === 'plain' ? '' : undefined}
        data-draft={typing === null ? undefined : ''}
        onFocus={(event) => event.target.select()}
        onBlur={keep}
        onKeyDown={onKeyDown}
      />
      <Problem>
        <span role="alert">{typing?.isWrong && `Write it like ${example}`}</span>
      </Problem>
      {isNearest && <Remark aria-hidden>{NEAREST}</Remark>}
    </Wrap>
  );
}

/** Words of a length, without the blanks around them. @returns null for none where at least one is needed */
export const words =
  (least: 0 | 1 = 0) =>
  (text: string): string | null =>
    text.trim().length >= least ? text.trim() : null;

/** A word on the field, below it. */
const slip = css`
  position: absolute;
  z-index: 3;
  top: 27px;
  left: 0;
  padding: 2px 7px;
  white-space: nowrap;
  /* What it lies over can be clicked. */
  pointer-events: none;
`;

const Remark = styled.span`
  ${slip}
  background: var(--ink);
  /* Rows have a colour of their own for words in them. */
  && {
    color: var(--field);
  }
`;

const Problem = styled(FieldError)`
  ${slip}
  background: var(--accent);
  /* Rows have a colour of their own for words in them. */
  &&,
  && span {
    color: var(--on-accent);
  }
`;

const Wrap = styled(TextField)`
  position: relative;
  display: inline-flex;
  min-width: 0;
  &[data-look='line'],
  &[data-look='note'] {
    display: flex;
    grid-column: 2 / -1;
  }
  &[data-look='title'] {
    flex: 1;
  }
  &[data-read]:not(:hover, :focus-within) ${Problem} {
    display: none;
  }
`;

const LOOKS = {
  figure: css`
    height: 24px;
    padding: 0 7px;
    font-weight: 600;
  `,
  plain: css`
    height: 24px;
    padding: 0 3px;
    border-color: var(--unseen);
    background: none;
    font-weight: 500;
    text-align: right;
  `,
  line: css`
    width: 100%;
    height: 24px;
    padding: 0 7px;
    font-weight: 600;
    text-overflow: ellipsis;
  `,
  note: css`
    width: 100%;
    padding: 2px 0;
    border-width: 0 0 1px;
    border-radius: 0;
    background: none;
    font: italic 400 14px/1.3 var(--serif);
  `,
  title: css`
    width: 100%;
    padding: 3px 4px;
    border-color: var(--unseen);
    background: none;
    font-size: 15px;
    font-weight: 600;
    text-overflow: ellipsis;
  `,
};

const Input = styled(AriaInput)<{ $look: keyof typeof LOOKS }>`
  min-width: 0;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
  &:hover {
    border-color: var(--soft);
  }
  &::placeholder {
    color: var(--soft);
  }
  ${({ $look }) => LOOKS[$look]}
  &[data-invalid] {
    border-color: var(--accent);
    color: var(--accent);
  }
`;
