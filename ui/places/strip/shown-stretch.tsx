'use client';
import { useEffect, useState } from 'react';
import { writeTime } from '@/core/formats';
import type { StripView } from './strip-view';

/** Figures follow a gesture eight times a second. */
const FOLLOW_MS = 125;

/** Which stretch of the song is shown, in words. */
export function ShownStretch({ view }: { view: StripView }) {
  const [span, setSpan] = useState(view.span);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const follow = () => {
      timer = undefined;
      setSpan(view.span());
    };
    const stop = view.onChange(() => (timer ??= setTimeout(follow, FOLLOW_MS)));
    return () => {
      stop();
      clearTimeout(timer);
    };
  }, [view]);
  return <span>{span ? `${writeTime(span.from)} to ${writeTime(span.to)} shown` : 'Song'}</span>;
}
