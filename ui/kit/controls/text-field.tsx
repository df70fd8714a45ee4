'use client';
import { Input, Label, TextField as AriaTextField } from 'react-aria-components';
import styled from 'styled-components';

interface TextFieldProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  maxLength?: number;
  autoFocus?: boolean;
}

/** A line of text with its label above. */
export function TextField({ label, value, onChange, maxLength, autoFocus = false }: TextFieldProps) {
  return (
    <Field value={value} onChange={onChange} maxLength={maxLength} autoFocus={autoFocus}>
      <Label>{label}</Label>
      <Input />
    </Field>
  );
}

const Field = styled(AriaTextField)`
  display: grid;
  gap: 4px;
  label {
    color: var(--soft);
  }
  input {
    height: 30px;
    padding: 0 9px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
    font-size: 15px;
  }
`;
