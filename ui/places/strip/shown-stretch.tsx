'use client';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import type { Span } from '../../window/view/song-view';
import { writeTime } from '@/core/formats';
import type { StripView } from './strip-view';

/** Two figures that both move are read four times a second, not eight. */
const FOLLOW_MS = 250;

/** Which stretch of the song is shown, in words. */
export function ShownStretch({ view }: { view: StripView }) {
  const [followed, setFollowed] = useState<{ view: StripView; span: Span | null } | null>(null);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const follow = () => {
      timer = undefined;
      setFollowed({ view, span: view.span() });
    };
    const stop = view.onChange(() => (timer ??= setTimeout(follow, FOLLOW_MS)));
    return () => {
      stop();
      clearTimeout(timer);
    };
  }, [view]);
  const span = followed?.view === view ? followed.span : view.span();
  return <Shown>{span ? `${writeTime(span.from)} to ${writeTime(span.to)} shown` : 'Song'}</Shown>;
}

/** Of a size of its own, out of the page's flow: while it changes nothing else is laid out. */
const Shown = styled.span`
  contain: strict;
  will-change: transform;
  position: absolute;
  top: 7px;
  left: 18px;
  width: 190px;
  height: 1.25em;
  color: var(--soft);
`;
