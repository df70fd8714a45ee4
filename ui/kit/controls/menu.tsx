'use client';
import { Menu as AriaMenu, MenuItem as AriaMenuItem, Popover } from 'react-aria-components';
import styled, { css } from 'styled-components';

export const popover = css`
  min-width: var(--trigger-width);
  padding: 4px 0;
  border: 1px solid var(--ink);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
  overflow: auto;
`;

export const menuItem = css`
  display: flex;
  justify-content: space-between;
  gap: 24px;
  padding: 4px 12px;
  outline: none;
  cursor: default;
  &[data-focused],
  &[data-hovered] {
    background: var(--grid);
    /* Where the system chooses the colours, this is what is seen of it. */
    outline: 1px solid transparent;
    outline-offset: -1px;
  }
  &[data-focused] kbd {
    color: var(--ink);
  }
  &[data-selected] {
    font-weight: 600;
    color: var(--claim);
  }
  &[data-disabled] {
    color: var(--soft);
  }
`;

export const MenuPanel = styled(Popover)`
  ${popover}
`;
export const Menu = styled(AriaMenu)`
  outline: none;
`;
export const MenuItem = styled(AriaMenuItem)`
  ${menuItem}
`;
export const KeyName = styled.kbd`
  color: var(--soft);
  font: inherit;
  font-size: 12px;
`;
