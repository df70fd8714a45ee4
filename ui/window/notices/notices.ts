import { UNSTABLE_ToastQueue as ToastQueue } from 'react-aria-components';
import type { OrvidError } from '@/core/errors';
import type { Desk } from '../desk/desk';

/** Something that people should read: what happened, what was kept, what to do. */
export interface Notice {
  tone: 'error' | 'plain';
  text: string;
}

const SHOWN_MS = 8000;
const MOST_SHOWN = 5;

const makeNotices = () => new ToastQueue<Notice>({ maxVisibleToasts: MOST_SHOWN });
export const noticesOf = (desk: Desk): ToastQueue<Notice> => desk.part(makeNotices);

/** Says something in the corner; an error stays until it is dismissed. What stands there already is not said twice. */
export function tell(desk: Desk, text: string, tone: Notice['tone'] = 'plain'): void {
  const queue = noticesOf(desk);
  if (queue.visibleToasts.some(({ content }) => content.text === text)) return;
  queue.add({ tone, text }, tone === 'plain' ? { timeout: SHOWN_MS } : {});
}

export const tellError = (desk: Desk, { message, kept }: Pick<OrvidError, 'message' | 'kept'>) =>
  tell(desk, [message, kept].filter(Boolean).join(' '), 'error');
