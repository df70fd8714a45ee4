import { STEPS_PER_SECOND, type StepRange } from '../measure';
import { songLengthFrames, type Song } from '../song';
import { wholeRange } from './part-loudness';

/** A song without parts is looked at in stretches of about this length, seconds. */
const STRETCH_SECONDS = 20;

/** A stretch of a song that is looked at by itself. */
interface Stretch {
  name: string;
  startSeconds: number;
}

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`;

/** The parts of a song by their names; of one without parts stretches of equal length, by their times. */
function stretchesOf(song: Song): Stretch[] {
  const seconds = songLengthFrames(song) / song.rateHz;
  const parts = song.parts
    .filter(({ startSeconds }) => startSeconds < seconds)
    .sort((a, b) => a.startSeconds - b.startSeconds);
  if (parts.length > 1)
    return parts[0].startSeconds > 0 ? [{ name: 'the beginning', startSeconds: 0 }, ...parts] : parts;
  const count = Math.max(1, Math.round(seconds / STRETCH_SECONDS));
  return Array.from({ length: count }, (_, i) => {
    const startSeconds = (i * seconds) / count;
    return { name: `the part from ${clock(startSeconds)} on`, startSeconds };
  });
}

/** The parts of a song in steps of 50 ms. */
export function songStretches(song: Song): StepRange[] {
  const { to } = wholeRange(song);
  const starts = stretchesOf(song).map(({ startSeconds }) => Math.floor(startSeconds * STEPS_PER_SECOND));
  return starts.map((from, i) => ({ from, to: starts[i + 1] ?? to }));
}

export const songStretchName = (song: Song, number: number): string => stretchesOf(song)[number].name;
