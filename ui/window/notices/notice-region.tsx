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

/** What was said, over the foot of the page; the tray of recordings has the corner. */
export function NoticeRegion() {
  const queue = noticesOf(useDesk());
  return (
    <Region queue={queue} aria-label="Notices">
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
    </Region>
  );
}

const Region = styled(ToastRegion<{ tone: string; text: string }>)`
  position: fixed;
  left: 50%;
  bottom: 34px;
  translate: -50%;
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
