'use client';
import { useState } from 'react';
import { Button } from './button';
import { PanelLine } from './panel';

interface NameLineProps {
  /** Names the field. */
  label: string;
  placeholder: string;
  action: string;
  isDisabled?: boolean;
  onName: (name: string) => void;
}

/** A line in which something is given a name and kept. */
export function NameLine({ label, placeholder, action, isDisabled = false, onName }: NameLineProps) {
  const [name, setName] = useState('');
  const isReady = name.trim() !== '' && !isDisabled;
  return (
    <PanelLine
      as="form"
      onSubmit={(event: React.FormEvent) => {
        event.preventDefault();
        if (!isReady) return;
        onName(name.trim());
        setName('');
      }}
    >
      <input
        type="text"
        aria-label={label}
        placeholder={placeholder}
        maxLength={120}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" isDisabled={!isReady}>
        {action}
      </Button>
    </PanelLine>
  );
}
