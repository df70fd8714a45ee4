'use client';
import { useEffect } from 'react';
import styled from 'styled-components';
import { SERIF } from '../../kit/theme/tokens';
import { useTheme } from '../../kit/theme/theme-store';

/** A text of the project's own documentation. @param html made from a file of the project, never from input */
export function DocumentPage({ html }: { html: string }) {
  useEffect(() => useTheme.getState().start(), []);
  return (
    <Page>
      <article dangerouslySetInnerHTML={{ __html: html }} />
    </Page>
  );
}

const Page = styled.main`
  height: 100vh;
  padding: 24px 28px 60px;
  overflow-y: auto;
  article {
    max-width: 760px;
    margin: 0 auto;
    font-size: 15px;
    line-height: 1.5;
  }
  h1,
  h2,
  h3 {
    margin: 1.2em 0 0.4em;
    font: italic 400 22px/1.2 ${SERIF};
  }
  h1 {
    font-size: 28px;
  }
  p,
  ul,
  ol {
    margin: 0.6em 0;
  }
  table {
    margin: 0.8em 0;
    border-collapse: collapse;
  }
  th,
  td {
    padding: 4px 14px 4px 0;
    border-bottom: 1px solid var(--rule);
    text-align: left;
    vertical-align: top;
  }
  code {
    font-size: 13px;
  }
`;
