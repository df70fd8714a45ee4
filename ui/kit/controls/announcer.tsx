'use client';
import { useEffect, useState } from 'react';
import styled from 'styled-components';

/** What assistive technology is told of gestures: the last of quick changes only, so that it does not chatter. */
const QUIET_MS = 500;
const listeners = new Set<(text: string) => void>();
let timer: ReturnType<typeof setTimeout> | undefined;

/** Says something once nothing new has come for half a second. */
export function announce(text: string): void {
  clearTimeout(timer);
  timer = setTimeout(() => listeners.forEach((listener) => listener(text)), QUIET_MS);
}

/** Where announcements are read from; nothing is seen of it. */
export function Announcer() {
  const [text, setText] = useState('');
  useEffect(() => {
    listeners.add(setText);
    return () => void listeners.delete(setText);
  }, []);
  return (
    <Unseen role="status" aria-label="Announcements">
      {text}
    </Unseen>
  );
}

export const Unseen = styled.div`
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
  white-space: nowrap;
`;
