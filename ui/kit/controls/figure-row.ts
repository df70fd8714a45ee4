import styled from 'styled-components';

/** A line of a panel: what it is, its control, a remark. */
export const FigureRow = styled.div`
  display: grid;
  grid-template-columns: 62px auto 1fr;
  align-items: center;
  gap: 8px;
  min-height: 30px;
  span,
  label {
    color: var(--soft);
  }
  span:has(button) {
    white-space: nowrap;
  }
  i {
    color: var(--soft);
    font-size: 12px;
    font-style: normal;
    text-align: right;
    white-space: nowrap;
  }
`;
