'use client';
import type { ReactNode } from 'react';
import { I18nProvider } from 'react-aria-components';

/** Controls speak the language of the page, and run from left to right as it does, whatever the browser's own language is. */
export function English({ children }: { children: ReactNode }) {
  return <I18nProvider locale="en-US">{children}</I18nProvider>;
}
