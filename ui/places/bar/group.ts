import styled from 'styled-components';

/** Controls of the bar that belong together. */
export const Group = styled.div`
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
`;
