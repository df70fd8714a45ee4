'use client';
import { Check } from 'lucide-react';
import type { ReactNode } from 'react';
import { Checkbox as LibraryCheckbox } from 'react-aria-components';
import styled from 'styled-components';

interface CheckboxProps {
  /** What it is called where its text alone does not say it. */
  label?: string;
  hint?: string;
  isChecked: boolean;
  onToggle: () => void;
  children: ReactNode;
}

/** A box with a tick and what it stands for; the whole line is its target. */
export function Checkbox({ label, hint, isChecked, onToggle, children }: CheckboxProps) {
  return (
    <Line aria-label={label} data-hint={hint} isSelected={isChecked} onChange={onToggle}>
      <Box aria-hidden>{isChecked && <Check size={11} strokeWidth={3} />}</Box>
      {children}
    </Line>
  );
}

const Line = styled(LibraryCheckbox)`
  position: relative;
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) auto;
  align-items: center;
  min-height: 24px;
  cursor: default;
`;

const Box = styled.span`
  display: grid;
  place-items: center;
  width: 15px;
  height: 15px;
  border: 1px solid var(--soft);
  border-radius: 2px;
  background: var(--field);
`;
