import styled from 'styled-components';

/** A list of lines with boxes to tick, which scrolls in its dialog: a name, a figure, and a word below. */
export const TickList = styled.ul`
  max-height: 46vh;
  margin: 8px 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
  li {
    border-bottom: 1px solid var(--grid);
  }
  label {
    padding: 4px 0;
  }
  b {
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  small {
    grid-column: 2 / 4;
    color: var(--soft);
    font-size: 12.5px;
  }
`;
