import { wrap, type Remote } from 'comlink';
import type { Observed } from '@/core/mix';
import { songLengthFrames, type Song } from '@/core/song';
import type { ObserverWorker } from '@/workers/observer';
import { deskStore, type Desk } from '../../window/desk/desk';
import { liveSong, songOf } from '../../window/song/live-song';
import { chosenProcessor, useSelection } from '../../window/song/selection';

/** What goes on at the processor on the bench, over what is looped. */
interface ObservedStore {
  /** The latest; it stays while the next one is worked out. */
  observed: (Observed & { processorId: string; span: { from: number; to: number } }) | null;
  problem: string | null;
}

/** Longer loops are looked at from their beginning on for so long, seconds. */
const LONGEST = 40;
/** Values of a picture. */
const COLUMNS = 600;
/** It is looked at anew when nothing has changed for this long; in a drag at least so often. */
const REST_MS = 120;

export const useObserved = deskStore<ObservedStore>(() => () => ({ observed: null, problem: null }));

/** The stretch that is looked at, seconds: the loop, or the song's beginning. */
export function observedSpan(song: Song): { from: number; to: number } {
  const length = songLengthFrames(song) / song.rateHz;
  const { from, to } = song.loop?.enabled
    ? { from: song.loop.startSeconds, to: Math.min(length, song.loop.endSeconds) }
    : { from: 0, to: length };
  return { from, to: Math.min(to, from + LONGEST) };
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
  const worker = new Worker('/audio/observer.js');
  const remote: Pick<Remote<ObserverWorker>, 'observe'> = wrap<ObserverWorker>(worker);
  let timer: ReturnType<typeof setTimeout> | undefined;
  let isBusy = false;
  let isStale = false;
  let isOver = false;
  const look = async () => {
    timer = undefined;
    const subject = subjectOf(desk);
    if (!subject) return;
    isBusy = true;
    isStale = false;
    const span = observedSpan(subject.song);
    const range = {
      startFrame: Math.round(span.from * subject.song.rateHz),
      endFrame: Math.round(span.to * subject.song.rateHz),
    };
    try {
      const observed =
        range.endFrame > range.startFrame ? await remote.observe({ ...subject, range, columns: COLUMNS }) : null;
      if (isOver) return;
      const { processorId } = subject;
      useObserved.api(desk).setState({ observed: observed && { ...observed, processorId, span }, problem: null });
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
  const endings = [liveSong(desk).follow(later), useSelection.api(desk).subscribe(later)];
  return () => {
    isOver = true;
    clearTimeout(timer);
    worker.terminate();
    endings.forEach((end) => end());
  };
}
