'use client';
import { useServerInsertedHTML } from 'next/navigation';
import { useRef, useState, type ReactNode } from 'react';
import { ServerStyleSheet, StyleSheetManager } from 'styled-components';
import { GlobalStyle } from './global-style';

/**
 * Collects the styles of what the server renders. Every style element carries the nonce of the page's content policy; styled-components
 * and React Aria find it in a meta element, which goes out with the styles because it must be there before any script runs, also on
 * the pages that Next.js renders in the browser alone.
 */
export function StyleRegistry({ nonce, children }: { nonce?: string; children: ReactNode }) {
  const [sheet] = useState(() => new ServerStyleSheet({ nonce }));
  const isNonceOut = useRef(false);
  useServerInsertedHTML(() => {
    const styles = sheet.getStyleElement();
    sheet.instance.clearTag();
    const isFirst = !isNonceOut.current;
    isNonceOut.current = true;
    return (
      <>
        {isFirst && <meta property="csp-nonce" nonce={nonce} />}
        {styles}
      </>
    );
  });
  const content = (
    <>
      <GlobalStyle />
      {children}
    </>
  );
  if (typeof window !== 'undefined') return content;
  return <StyleSheetManager sheet={sheet.instance}>{content}</StyleSheetManager>;
}
