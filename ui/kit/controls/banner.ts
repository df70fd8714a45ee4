import styled from 'styled-components';

/** Says above the Register that what is shown is not simply the song. */
export const Banner = styled.div`
  display: flex;
  align-items: center;
  gap: 10px;
  min-width: 0;
  padding: 2px 18px;
  border-left: 6px solid var(--accent);
  border-bottom: 1px solid var(--accent);
  background: var(--field);
  b {
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  span {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    color: var(--soft);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
