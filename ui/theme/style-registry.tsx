'use client';
import { useServerInsertedHTML } from 'next/navigation';
import { useState, type ReactNode } from 'react';
import { ServerStyleSheet, StyleSheetManager } from 'styled-components';
import { GlobalStyle } from './global-style';

/** Collects the styles of what the server renders; every style element carries the nonce of the page's content policy. */
export function StyleRegistry({ nonce, children }: { nonce?: string; children: ReactNode }) {
  const [sheet] = useState(() => new ServerStyleSheet({ nonce }));
  useServerInsertedHTML(() => {
    const styles = sheet.getStyleElement();
    sheet.instance.clearTag();
    return styles;
  });
  const content = (
    <>
      <GlobalStyle />
      {children}
    </>
  );
  // In the browser the nonce is read from the page's `csp-nonce` meta element.
  if (typeof window !== 'undefined') return content;
  return <StyleSheetManager sheet={sheet.instance}>{content}</StyleSheetManager>;
}
