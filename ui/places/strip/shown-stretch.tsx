'use client';
import { useEffect, useState } from 'react';
import type { Span } from '../../window/view/song-view';
import { writeTime } from '@/core/formats';
import type { StripView } from './strip-view';

/** Figures follow a gesture eight times a second. */
const FOLLOW_MS = 125;

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
  return <span>{span ? `${writeTime(span.from)} to ${writeTime(span.to)} shown` : 'Song'}</span>;
}
