import type { Edit, Loop, Song } from '@/core/song';

/** Edits of the loop by gestures in the song strip; times in seconds. */
const SHORTEST = 0.1;
export type LoopPart = 'start' | 'end' | 'whole';

const setLoop = (loop: Loop): Edit => ({ kind: 'song.set', changes: { loop } });

/** @param toGrid where a time that is near no part sticks */
function snapped(
  seconds: number,
  song: Song,
  lengthSeconds: number,
  reach: number,
  toGrid: (seconds: number) => number,
): number {
  const marks = [0, ...song.parts.map((part) => part.startSeconds), lengthSeconds];
  const nearest = marks.reduce((best, mark) => (Math.abs(mark - seconds) < Math.abs(best - seconds) ? mark : best));
  return Math.abs(nearest - seconds) <= reach ? nearest : Math.min(lengthSeconds, toGrid(seconds));
}

const tidy = (seconds: number) => Math.round(seconds * 1000) / 1000;

/**
 * @param loop as it was when the gesture began
 * @param by how far it is moved
 * @param reach how near to the beginning of a part it sticks there
 * @param toGrid where else it sticks
 */
export function moveLoop(
  song: Song,
  loop: Loop,
  part: LoopPart,
  by: number,
  lengthSeconds: number,
  reach: number,
  toGrid = (seconds: number) => seconds,
): Edit {
  const stick = (seconds: number) => snapped(seconds, song, lengthSeconds, reach, toGrid);
  if (part === 'start') {
    const startSeconds = Math.min(loop.endSeconds - SHORTEST, Math.max(0, stick(loop.startSeconds + by)));
    return setLoop({ ...loop, startSeconds: tidy(startSeconds) });
  }
  if (part === 'end') {
    const endSeconds = Math.max(loop.startSeconds + SHORTEST, Math.min(lengthSeconds, stick(loop.endSeconds + by)));
    return setLoop({ ...loop, endSeconds: tidy(endSeconds) });
  }
  const length = loop.endSeconds - loop.startSeconds;
  const startSeconds = Math.min(lengthSeconds - length, Math.max(0, stick(loop.startSeconds + by)));
  return setLoop({ ...loop, startSeconds: tidy(startSeconds), endSeconds: tidy(startSeconds + length) });
}

/** A new loop, drawn from one place to another. */
export function drawLoop(
  song: Song,
  from: number,
  to: number,
  lengthSeconds: number,
  reach: number,
  toGrid = (seconds: number) => seconds,
): Edit | null {
  const place = (seconds: number) =>
    snapped(Math.min(lengthSeconds, Math.max(0, seconds)), song, lengthSeconds, reach, toGrid);
  const [startSeconds, endSeconds] = [place(from), place(to)].sort((a, b) => a - b);
  if (endSeconds - startSeconds < SHORTEST) return null;
  return setLoop({ startSeconds: tidy(startSeconds), endSeconds: tidy(endSeconds), enabled: true });
}

/** The loop over one part of the song. */
export function loopPart(song: Song, index: number, lengthSeconds: number): Edit {
  const endSeconds = song.parts[index + 1]?.startSeconds ?? lengthSeconds;
  return setLoop({ startSeconds: song.parts[index].startSeconds, endSeconds, enabled: true });
}
