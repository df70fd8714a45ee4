'use client';
import { useState, type InputHTMLAttributes } from 'react';

interface CommittedTextProps extends Omit<InputHTMLAttributes<HTMLInputElement>, 'value' | 'onChange'> {
  value: string;
  /** Hears what was typed when it is finished: Enter, or leaving the field. Escape leaves the value as it was. */
  onCommit: (text: string) => void;
}

/** A line of text that is kept when it is finished. */
export function CommittedText({ value, onCommit, ...rest }: CommittedTextProps) {
  const [draft, setDraft] = useState<string | null>(null);
  const finish = () => {
    if (draft !== null && draft.trim() !== value) onCommit(draft.trim());
    setDraft(null);
  };
  return (
    <input
      {...rest}
      data-draft={draft === null ? undefined : ''}
      value={draft ?? value}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={finish}
      onKeyDown={(event) => {
        if (event.key === 'Enter') finish();
        else if (event.key === 'Escape') setDraft(null);
      }}
    />
  );
}
