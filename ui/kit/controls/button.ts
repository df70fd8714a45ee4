import { Button as AriaButton, ToggleButton as AriaToggleButton } from 'react-aria-components';
import styled, { css } from 'styled-components';

const box = css`
  display: inline-flex;
  align-items: center;
  justify-content: center;
  gap: 6px;
  height: 28px;
  padding: 0 12px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: transparent;
  color: var(--ink);
  font-weight: 500;
  white-space: nowrap;
  cursor: default;
  &[data-hovered] {
    border-color: var(--soft);
  }
  &[data-pressed] {
    background: var(--grid);
  }
  &[data-disabled] {
    color: var(--soft);
    opacity: 0.6;
  }
`;

export const Button = styled(AriaButton)<{ $strong?: boolean; $outlined?: boolean }>`
  ${box}
  ${({ $strong }) =>
    $strong &&
    css`
      background: var(--ink);
      border-color: var(--ink);
      color: var(--field);
      font-weight: 600;
      &[data-pressed] {
        background: var(--soft);
      }
    `}
  ${({ $outlined }) =>
    $outlined &&
    css`
      border-color: var(--ink);
      background: var(--field);
      font-weight: 600;
    `}
`;

/** Text that can be pressed. */
export const TextButton = styled(AriaButton)`
  min-width: 24px;
  min-height: 24px;
  padding: 2px 0;
  border: 0;
  background: none;
  color: var(--claim);
  font-weight: 600;
  cursor: default;
  &[data-hovered] {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  &[data-disabled] {
    color: var(--soft);
    font-weight: 400;
  }
`;

export const ToggleButton = styled(AriaToggleButton)<{ $tone?: 'claim' | 'ink' }>`
  ${box}
  &[data-selected] {
    border-color: var(--${({ $tone = 'claim' }) => $tone});
    color: var(--${({ $tone = 'claim' }) => $tone});
    background: var(--field);
    font-weight: 600;
  }
`;

/** The small square switches of a lane's head. */
export const LaneToggle = styled(AriaToggleButton)`
  flex: none;
  width: 24px;
  height: 24px;
  padding: 0;
  /* As large as a target must be; what is seen of it is smaller. */
  border: 2px solid transparent;
  background: transparent;
  box-shadow: inset 0 0 0 1px var(--rule);
  border-radius: 4px;
  background-clip: padding-box;
  color: var(--soft);
  font-size: 11px;
  font-weight: 600;
  line-height: 1;
  cursor: default;
  &[data-hovered] {
    box-shadow: inset 0 0 0 1px var(--soft);
    color: var(--ink);
  }
  &[data-selected] {
    background-color: var(--ink);
    color: var(--field);
  }
`;
