'use client';
import {
  UNSTABLE_Toast as Toast,
  UNSTABLE_ToastContent as ToastContent,
  UNSTABLE_ToastRegion as ToastRegion,
} from 'react-aria-components';
import styled from 'styled-components';
import { TextButton } from '../../kit/controls/button';
import { useDesk } from '../desk/desk';
import { noticesOf } from './notices';

/** What was said, in a corner over the page. */
export function NoticeRegion() {
  const queue = noticesOf(useDesk());
  return (
    <Corner queue={queue} aria-label="Notices">
      {({ toast }) => (
        <Line toast={toast} data-tone={toast.content.tone}>
          <ToastContent>
            <p>{toast.content.text}</p>
          </ToastContent>
          <TextButton slot="close" aria-label="Dismiss">
            Dismiss
          </TextButton>
        </Line>
      )}
    </Corner>
  );
}

const Corner = styled(ToastRegion<{ tone: string; text: string }>)`
  position: fixed;
  right: 12px;
  bottom: 34px;
  z-index: 16;
  display: grid;
  gap: 4px;
  width: 380px;
  max-width: calc(100vw - 24px);
  outline: none;
`;
const Line = styled(Toast)`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 5px 14px;
  align-items: start;
  padding: 8px 12px;
  border: 1px solid var(--ink);
  background: var(--field);
  outline: none;
  &[data-tone='error'] {
    border-left: 4px solid var(--accent);
  }
  &[data-focus-visible] {
    outline: 2px solid var(--claim);
  }
` as typeof Toast;
