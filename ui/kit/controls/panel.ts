import styled from 'styled-components';
import { SERIF } from '../theme/tokens';

/** A panel of the side: sections with a heading each. */
export const PanelBody = styled.section`
  padding: 8px 16px 12px;
  h2 {
    margin: 0 0 6px;
    font: italic 400 18px/1.2 ${SERIF};
  }
  h2 ~ h2 {
    margin-top: 14px;
  }
  p {
    color: var(--soft);
  }
`;

/** A list whose lines hold a name and what can be done with it. */
export const PanelRows = styled.ul`
  margin: 4px 0 6px;
  padding: 0;
  list-style: none;
  li {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 28px;
    border-bottom: 1px solid var(--grid);
  }
  li > :first-child {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  li small {
    color: var(--soft);
    font-size: 12px;
  }
`;

/** A list of what was found: its name and place, what is known of it, what can be done about it. As wide as the side. */
export const FindingRows = styled.ul`
  margin: 2px -16px 8px;
  padding: 0;
  list-style: none;
  > li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 0 8px;
    padding: 6px 16px;
    border-bottom: 1px solid var(--grid);
  }
  b {
    font-weight: 600;
  }
  small {
    color: var(--soft);
    font-size: 12.5px;
  }
`;
export const FindingActions = styled.div`
  grid-column: 1 / 3;
  display: flex;
  gap: 16px;
  padding-top: 3px;
  button {
    font-size: 12.5px;
  }
`;

/** Fields and buttons in a line. */
export const PanelLine = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 7px;
  margin: 5px 0;
  input[type='text'] {
    flex: 1;
    min-width: 0;
    height: 26px;
    padding: 0 8px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--field);
  }
`;

/** What is looked at now and then: its first line opens it. */
export const Folded = styled.details`
  margin: 4px 0 8px;
  summary {
    min-height: 24px;
    color: var(--claim);
    font-size: 12.5px;
  }
`;

/** Lines of words that may be many. */
export const WordLines = styled.ul`
  max-height: 50vh;
  margin: 0;
  padding: 0 0 0 18px;
  overflow-y: auto;
`;
