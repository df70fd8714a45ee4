import { wrap } from 'comlink';
import { openWorker } from '@/audio/open-worker';
import type { Observed } from '@/core/mix';
import { songLengthFrames, type Song } from '@/core/song';
import type { ObserverWorker } from '@/workers/observer';
import { deskStore, type Desk } from '../../window/desk/desk';
import { onServerBack } from '../../window/outbox/link';
import { liveSong, songOf } from '../../window/song/live-song';
import { chosenProcessor, useSelection } from '../../window/song/selection';
import { positionSeconds } from '../../window/sound/audio-state';

/** A stretch of the song, seconds. */
export interface Span {
  from: number;
  to: number;
}

/** What goes on at the processor on the bench, around where the song stands. */
interface ObservedStore {
  /** The latest; it stays while the next one is worked out. */
  observed: (Observed & { processorId: string; span: Span }) | null;
  problem: string | null;
}

/** No more than this is looked at, seconds. */
const LONGEST = 40;
/** A new stretch begins so long before the playhead, and is asked for so long before the old one ends, seconds. */
const LEAD = 3;
/** How often it is looked whether the song stands elsewhere, ms. */
const FOLLOW_MS = 250;
/** Values of a picture. */
const COLUMNS = 600;
/** It is looked at anew when nothing has changed for this long; in a drag at least so often. */
const REST_MS = 120;

export const useObserved = deskStore<ObservedStore>(() => () => ({ observed: null, problem: null }));

/**
 * The stretch that is looked at: the loop, or the song where none is on; where that is too long, a part of it around the playhead.
 * @param at where the song stands, seconds
 * @param shown what has been looked at; it stays for as long as the song stands in it
 */
export function observedSpan(song: Song, at: number, shown: Span | null = null): Span {
  const length = songLengthFrames(song) / song.rateHz;
  const { from, to } = song.loop?.enabled
    ? { from: Math.min(length, song.loop.startSeconds), to: Math.min(length, song.loop.endSeconds) }
    : { from: 0, to: length };
  if (to - from <= LONGEST) return { from, to };
  const place = Math.max(from, Math.min(to, at));
  // Sums of fractions are not exact.
  const isSame = (first: number, second: number) => Math.abs(first - second) < 1e-6;
  if (shown && isSame(shown.to - shown.from, LONGEST)) {
    const until = isSame(shown.to, to) ? to : shown.to - LEAD;
    if (shown.from > from - 1e-6 && shown.to < to + 1e-6 && place >= shown.from && place <= until) return shown;
  }
  const start = Math.max(from, Math.min(to - LONGEST, place - LEAD));
  return { from: start, to: start + LONGEST };
}

/** Everything that the picture of a processor depends on: levels of faders elsewhere do not matter to a track. */
function subjectOf(desk: Desk): { song: Song; stripId: string; processorId: string } | null {
  const processor = chosenProcessor(desk);
  if (!processor || processor.kind === 'equalizer' || processor.kind === 'reverb' || processor.kind === 'echo')
    return null;
  return { song: songOf(desk), stripId: useSelection.of(desk).stripId, processorId: processor.id };
}

/** Keeps the picture up to date while it is shown. @returns ends it */
export function followProcessor(desk: Desk): () => void {
  const worker = openWorker('/audio/observer.js', (problem) => useObserved.api(desk).setState({ problem }));
  const remote = wrap<ObserverWorker>(worker);
  let timer: ReturnType<typeof setTimeout> | undefined;
  let isBusy = false;
  let isStale = false;
  let isOver = false;
  let span: Span | null = null;
  const spanNow = () => observedSpan(songOf(desk), positionSeconds(desk), span);
  const look = async () => {
    timer = undefined;
    const subject = subjectOf(desk);
    if (!subject) return;
    isBusy = true;
    isStale = false;
    const looked = spanNow();
    span = looked;
    const range = {
      startFrame: Math.round(looked.from * subject.song.rateHz),
      endFrame: Math.round(looked.to * subject.song.rateHz),
    };
    try {
      const observed =
        range.endFrame > range.startFrame ? await remote.observe({ ...subject, range, columns: COLUMNS }) : null;
      if (isOver) return;
      const { processorId } = subject;
      useObserved
        .api(desk)
        .setState({ observed: observed && { ...observed, processorId, span: looked }, problem: null });
    } catch (error) {
      if (!isOver) useObserved.api(desk).setState({ problem: (error as Error).message });
    }
    isBusy = false;
    if (isStale) later();
  };
  const later = () => {
    isStale = true;
    if (!isBusy) timer ??= setTimeout(() => void look(), REST_MS);
  };
  later();
  const following = setInterval(() => {
    const now = spanNow();
    if (span && (now.from !== span.from || now.to !== span.to)) later();
  }, FOLLOW_MS);
  const endings = [liveSong(desk).follow(later), useSelection.api(desk).subscribe(later), onServerBack(desk, later)];
  return () => {
    isOver = true;
    clearTimeout(timer);
    clearInterval(following);
    worker.terminate();
    endings.forEach((end) => end());
  };
}
