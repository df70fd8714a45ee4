'use client';
import { ChevronDown } from 'lucide-react';
import { useEffect, useEffectEvent, type ReactNode } from 'react';
import {
  Button,
  ButtonContext,
  ListBox,
  ListBoxItem,
  Popover,
  Select,
  SelectValue,
  useSlottedContext,
} from 'react-aria-components';
import styled from 'styled-components';
import { menuItem, popover } from './menu';

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly { id: T; name: string }[];
  onChange: (value: T) => void;
  /** Hears which option is looked at while the list is open, and null when it is closed or left: for a preview of the choice. */
  onPreview?: (value: T | null) => void;
  width?: number;
}

/** One of a few named things. */
export function Choice<T extends string>({ label, value, options, onChange, onPreview, width = 160 }: ChoiceProps<T>) {
  return (
    <Select
      aria-label={label}
      value={value}
      onChange={(key) => {
        onPreview?.(null);
        onChange(key as T);
      }}
      onOpenChange={(isOpen) => !isOpen && onPreview?.(null)}
    >
      <LettersPassBy>
        <Trigger style={{ width }}>
          <SelectValue />
          <ChevronDown size={13} aria-hidden />
        </Trigger>
      </LettersPassBy>
      <Panel>
        <ListBox items={options}>
          {(option) => (
            <Item id={option.id} textValue={option.name}>
              {({ isFocused }) => (
                <Option name={option.name} onLookedAt={isFocused ? () => onPreview?.(option.id) : null} />
              )}
            </Item>
          )}
        </ListBox>
      </Panel>
    </Select>
  );
}

/** While the list is closed, letters are keys of the page and do not choose an option unseen. */
function LettersPassBy({ children }: { children: ReactNode }) {
  const context = useSlottedContext(ButtonContext);
  if (!context) return children;
  const onKeyDown: typeof context.onKeyDown = (event) => {
    if (event.key.length > 1 || event.key === ' ') context.onKeyDown?.(event);
    else event.continuePropagation();
  };
  return <ButtonContext value={{ ...context, onKeyDown }}>{children}</ButtonContext>;
}

function Option({ name, onLookedAt }: { name: string; onLookedAt: (() => void) | null }) {
  const isLookedAt = onLookedAt !== null;
  const tell = useEffectEvent(() => onLookedAt?.());
  useEffect(() => {
    if (isLookedAt) tell();
  }, [isLookedAt]);
  return name;
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
  > :first-child {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  svg {
    flex: none;
  }
`;

const Panel = styled(Popover)`
  ${popover}
`;

const Item = styled(ListBoxItem)`
  ${menuItem}
`;
