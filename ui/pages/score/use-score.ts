import { useEffect, useRef, useState } from 'react';
import type { Song } from '@/core/song';
import { wholeClearances } from '../../window/sound/whole-clearances';
import { measureStrips } from './measure-strips';
import { scoreLines, type ScoreLine } from './score-lines';

/** What is found of a line. */
type Found = (line: ScoreLine) => Partial<ScoreLine>;

/** Who hears of a score. */
interface Listener {
  found: (found: readonly Found[]) => void;
  /** How far those are that are measured together; null where each is measured by itself. */
  percent: (percent: number | null) => void;
  problem: (problem: string) => void;
}

const SHOWN_EVERY_MS = 1000;

/** What is found is told a second later, together with what comes until then: a table of sixty tracks takes a while. */
function gathered(tell: (found: readonly Found[]) => void, signal: AbortSignal): (found: Found) => void {
  let waiting: Found[] = [];
  const show = () => {
    const all = waiting;
    waiting = [];
    if (!signal.aborted) tell(all);
  };
  return (found) => {
    if (waiting.push(found) === 1) setTimeout(show, SHOWN_EVERY_MS);
  };
}

/** Measures clearances and strips, each of which goes on where the other cannot. @param missing strips that are not measured yet */
function measureScore(songId: string, song: Song, missing: readonly string[], listener: Listener, signal: AbortSignal) {
  if (song.tracks.length === 0) return;
  const tell = gathered(listener.found, signal);
  const clearances = wholeClearances(song, signal, ({ before, after, isEstimated }) =>
    tell(({ id }) => ({ before: before[id] ?? null, after: after[id] ?? null, isEstimated })),
  );
  const strips = measureStrips(songId, missing, signal, {
    progress: (share) => listener.percent(Math.round(100 * share)),
    measured: (figures) => {
      if (Object.keys(figures).length === 0) listener.percent(null);
      else tell(({ id }) => (id in figures ? { measured: figures[id] } : {}));
    },
  });
  for (const work of [clearances, strips])
    work.catch((error: Error) => {
      if (!signal.aborted) listener.problem(error.message);
    });
}

/** What is wrong, each said once: a longer word on a fault takes the place of a shorter one. */
export const withProblem = (said: readonly string[], problem: string): string[] =>
  said.some((one) => one.includes(problem)) ? [...said] : [...said.filter((one) => !problem.includes(one)), problem];

/** The lines of a song's score, as they are measured while somebody looks at them. */
export function useScore(
  songId: string,
  song: Song,
): { lines: readonly ScoreLine[]; problems: readonly string[]; percent: number | null; tryAgain: () => void } {
  const [lines, setLines] = useState<readonly ScoreLine[]>(() => scoreLines(song));
  const [problems, setProblems] = useState<readonly string[]>([]);
  const [percent, setPercent] = useState<number | null>(0);
  const [attempt, setAttempt] = useState(0);
  const latest = useRef(lines);
  useEffect(() => {
    latest.current = lines;
  }, [lines]);
  useEffect(() => {
    const leaving = new AbortController();
    const missing = latest.current.filter(({ measured }) => !measured).map(({ id }) => id);
    const listener: Listener = {
      found: (found) =>
        setLines((before) => before.map((line) => Object.assign({ ...line }, ...found.map((of) => of(line))))),
      percent: setPercent,
      problem: (problem) => setProblems((said) => withProblem(said, problem)),
    };
    measureScore(songId, song, missing, listener, leaving.signal);
    return () => leaving.abort();
  }, [songId, song, attempt]);
  const tryAgain = () => {
    setProblems([]);
    setPercent(0);
    setAttempt(attempt + 1);
  };
  return { lines, problems, percent, tryAgain };
}
