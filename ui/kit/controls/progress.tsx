'use client';
import { ProgressBar } from 'react-aria-components';
import styled from 'styled-components';

/** How far long work is. @param value 0 to 1 */
export function Progress({ label, value }: { label: string; value: number }) {
  return (
    <ProgressBar aria-label={label} value={value * 100}>
      <Track>
        <Fill style={{ width: `${value * 100}%` }} />
      </Track>
    </ProgressBar>
  );
}

const Track = styled.div`
  height: 5px;
  background: var(--grid);
`;
const Fill = styled.div`
  height: 100%;
  background: var(--claim);
`;
