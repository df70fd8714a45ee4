import { rowsOver, STEPS_PER_SECOND, weightedPowers } from '../measure';
import { songLengthFrames, type Loop, type Song } from '../song';
import { playedBlocks } from './clearance';
import type { BandLevels } from './part-loudness';
import { mixTracks } from './gains';

/** Where nothing is looped yet, so long a stretch is looked for, seconds. */
const USUAL_SECONDS = 10;
/** A stretch begins with a part of the song where one begins this near, seconds. */
const SNAP_SECONDS = 1.5;
const STEP = STEPS_PER_SECOND / 2;

/**
 * The stretch in which most plays at once: by the number of tracks that play, and by how loud the mix is where as many play. As long as
 * the loop is.
 * @returns null where nothing sounds
 */
export function fullestStretch(song: Song, levels: BandLevels): Loop | null {
  const lengthSeconds = songLengthFrames(song) / song.rateHz;
  const wanted = song.loop ? song.loop.endSeconds - song.loop.startSeconds : USUAL_SECONDS;
  const seconds = Math.min(lengthSeconds, wanted);
  const steps = Math.ceil(lengthSeconds * STEPS_PER_SECOND);
  const playing = new Float64Array(steps);
  const power = new Float64Array(steps);
  for (const { audioId, channels, gains } of mixTracks(song)) {
    const rows = rowsOver(levels[audioId] ?? [], { from: 0, to: steps });
    if (!rows) continue;
    const own = weightedPowers(rows, channels, gains, { from: 0, to: steps });
    const plays = playedBlocks(own);
    for (let step = 0; step < steps; step++) {
      power[step] += own[step];
      if (plays[step]) playing[step]++;
    }
  }
  const loudest = power.reduce((most, value) => Math.max(most, value), 0);
  if (!(loudest > 0)) return null;
  const window = Math.max(1, Math.round(seconds * STEPS_PER_SECOND));
  const worth = (from: number) => {
    let sum = 0;
    for (let step = from; step < Math.min(steps, from + window); step++) sum += playing[step] + power[step] / loudest;
    return sum;
  };
  let best = 0;
  let most = -1;
  for (let from = 0; from + window <= steps || from === 0; from += STEP) {
    const value = worth(from);
    if (value > most) [most, best] = [value, from];
  }
  const start = best / STEPS_PER_SECOND;
  const marks = song.parts.map(({ startSeconds }) => startSeconds).filter((mark) => mark + seconds <= lengthSeconds);
  const near = marks.find((mark) => Math.abs(mark - start) <= SNAP_SECONDS) ?? start;
  const tidy = (value: number) => Math.round(value * 1000) / 1000;
  return { startSeconds: tidy(near), endSeconds: tidy(near + seconds), enabled: true };
}
