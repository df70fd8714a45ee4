'use client';
import type { ReactNode } from 'react';
import Link from 'next/link';
import styled from 'styled-components';
import { Button } from '../../kit/controls/button';
import { SERIF } from '../../kit/theme/tokens';

interface MessagePageProps {
  title: string;
  text: string;
  again?: () => void;
  /** What went wrong since. */
  problem?: string;
  /** What can be done here. */
  children?: ReactNode;
}

/** A page with nothing but a sentence: what happened and where to go. */
export function MessagePage({ title, text, again, problem, children }: MessagePageProps) {
  return (
    <Page>
      <h1>{title}</h1>
      <p>{text}</p>
      {problem && <p role="alert">{problem}</p>}
      <div>
        {again && <Button onPress={again}>Try again</Button>}
        {children}
        <Link href="/songs">To the songs</Link>
      </div>
    </Page>
  );
}

const Page = styled.main`
  max-width: 460px;
  margin: 18vh auto 0;
  padding: 0 24px;
  h1 {
    font: italic 400 28px/1.2 ${SERIF};
  }
  p {
    margin: 12px 0 20px;
    color: var(--soft);
    font-size: 15px;
  }
  p[role='alert'] {
    color: var(--accent);
    font-weight: 600;
  }
  div {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 18px;
  }
  a {
    color: var(--claim);
    font-weight: 600;
  }
`;
