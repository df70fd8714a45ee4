import styled from 'styled-components';

/** A list of things with a time each: a field, a figure, what can be done. */
export const TimeRows = styled.ul`
  margin: 2px 0 8px;
  padding: 0;
  list-style: none;
  > li {
    display: flex;
    align-items: center;
    gap: 6px;
    min-height: 28px;
    border-bottom: 1px solid var(--grid);
  }
  > li > :first-child {
    flex: 1;
    min-width: 0;
  }
`;
