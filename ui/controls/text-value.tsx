'use client';
import { useId, useRef, useState } from 'react';
import styled from 'styled-components';

interface TextValueProps {
  label: string;
  /** The value as it is shown, with its unit. */
  shown: string;
  /** Turns what was typed into a value; null for what cannot be read. */
  parse: (text: string) => number | null;
  onCommit: (value: number) => void;
  /** Steps by arrow keys while it is not being typed in: +1 or −1, with the size of the step. */
  onStep?: (direction: 1 | -1, size: 'fine' | 'plain' | 'coarse') => void;
  /** How to write it, for the error: “2.5k, A4, 440”. */
  example: string;
  width?: number;
  /** Without a frame, for figures in a row of many. */
  isPlain?: boolean;
}

/**
 * A figure that takes a typed value with units. Click, double click or Enter to type; Enter keeps, Escape leaves it as it was.
 * Arrow keys step it.
 */
export function TextValue({
  label,
  shown,
  parse,
  onCommit,
  onStep,
  example,
  width = 78,
  isPlain = false,
}: TextValueProps) {
  const [draft, setDraft] = useState<string | null>(null);
  const [isWrong, setIsWrong] = useState(false);
  const errorId = useId();
  const input = useRef<HTMLInputElement>(null);

  const finish = (keep: boolean) => {
    if (draft === null) return;
    const value = keep ? parse(draft) : null;
    if (keep && value === null && draft.trim() !== shown) {
      setIsWrong(true);
      return;
    }
    setDraft(null);
    setIsWrong(false);
    if (value !== null && draft.trim() !== shown) onCommit(value);
  };

  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key === 'Enter') {
      finish(true);
      input.current?.select();
    } else if (event.key === 'Escape' && draft !== null) {
      setDraft(null);
      setIsWrong(false);
    } else if ((event.key === 'ArrowUp' || event.key === 'ArrowDown') && onStep) {
      event.preventDefault();
      setDraft(null);
      onStep(event.key === 'ArrowUp' ? 1 : -1, event.shiftKey ? 'fine' : event.altKey ? 'coarse' : 'plain');
    } else return;
    event.stopPropagation();
  };

  return (
    <Wrap>
      <Input
        ref={input}
        aria-label={label}
        aria-invalid={isWrong}
        aria-describedby={isWrong ? errorId : undefined}
        $plain={isPlain}
        style={{ width }}
        data-figure=""
        data-draft={draft === null ? undefined : ''}
        value={draft ?? shown}
        onFocus={(event) => event.target.select()}
        onChange={(event) => {
          setDraft(event.target.value);
          setIsWrong(false);
        }}
        onBlur={() => {
          if (draft !== null && parse(draft) === null) {
            setDraft(null);
            setIsWrong(false);
          } else finish(true);
        }}
        onKeyDown={onKeyDown}
      />
      {isWrong && (
        <Problem id={errorId} role="alert">
          Write it like {example}
        </Problem>
      )}
    </Wrap>
  );
}

const Wrap = styled.span`
  position: relative;
  display: inline-flex;
`;

const Input = styled.input<{ $plain: boolean }>`
  height: 24px;
  padding: 0 7px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
  font-weight: 600;
  &:hover {
    border-color: var(--soft);
  }
  ${({ $plain }) => $plain && 'height: 19px; padding: 0 3px; border-color: transparent; background: none; font-weight: 500; text-align: right;'}
  &[aria-invalid='true'] {
    border-color: var(--accent);
    color: var(--accent);
  }
`;

const Problem = styled.span`
  position: absolute;
  z-index: 3;
  top: 27px;
  left: 0;
  padding: 2px 7px;
  background: var(--accent);
  color: var(--on-accent);
  white-space: nowrap;
`;
