'use client';
import { ChevronDown } from 'lucide-react';
import { Button, ListBox, ListBoxItem, Popover, Select, SelectValue } from 'react-aria-components';
import styled from 'styled-components';
import { menuItem, popover } from './menu';

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly { id: T; name: string }[];
  onChange: (value: T) => void;
  width?: number;
}

/** One of a few named things. */
export function Choice<T extends string>({ label, value, options, onChange, width = 160 }: ChoiceProps<T>) {
  return (
    <Select aria-label={label} value={value} onChange={(key) => onChange(key as T)}>
      <Trigger style={{ width }}>
        <SelectValue />
        <ChevronDown size={13} aria-hidden />
      </Trigger>
      <Panel>
        <ListBox items={options}>{(option) => <Item id={option.id}>{option.name}</Item>}</ListBox>
      </Panel>
    </Select>
  );
}

const Trigger = styled(Button)`
  display: inline-flex;
  align-items: center;
  justify-content: space-between;
  height: 24px;
  padding: 0 7px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--field);
  font-weight: 600;
  cursor: default;
  &[data-hovered] {
    border-color: var(--soft);
  }
`;

const Panel = styled(Popover)`
  ${popover}
`;

const Item = styled(ListBoxItem)`
  ${menuItem}
`;
