import {
  FINE_BANDS,
  FINE_HZ,
  FINE_PER_OCTAVE,
  FINE_SIDES,
  type FineSpectrum,
  highestAround,
  medianAround,
} from './fine-spectrum';
import { percentile, topShift } from './frames';
import type { FoundSuspect } from './suspect';

/** A tone counts as there where it stands this far over the middle of a third of an octave to either side, dB … */
const THERE_DB = 9;
/** … for this share of the time in which the recording sounds, while its level hardly moves, dB: no note of a tune does both. */
const LEAST_PRESENCE = 0.9;
const MOST_DEVIATION_DB = 9;
const LEAST_PROMINENCE_DB = 12;
/** Too short to tell what stays from what is played, frames of 85 ms, in a long recording of 170. */
const FEWEST_FRAMES = 40;
/** Steady tones that are more than these are what the recording is about. */
const MOST_TONES = 4;
/** So many of the bands that are loudest at times tell whether what is played changes: their levels move by this much, and more than the tone's, dB. */
const TELLING_BANDS = 24;
const LEAST_CHANGE_DB = 9;
const CHANGE_OVER_TONE = 1.4;

/** What stays, and whether what is played changes at all: else everything stays. */
interface SteadyTones {
  found: FoundSuspect[];
  changes: boolean;
}

/**
 * Tones that stay put whatever is played: rings and whistles.
 * @param isHum true at frequencies of hum: those are no further tones
 * @param isNoise true at frequencies of noise that runs under all; neither it nor hum tells whether what is played changes
 */
export function steadyTones(
  fine: FineSpectrum,
  isHum: (hz: number) => boolean,
  isNoise: (hz: number) => boolean,
): SteadyTones {
  const frames = fine.sounding;
  if (frames.length < FEWEST_FRAMES) return { found: [], changes: false };
  const there = new Float64Array(FINE_BANDS);
  const sums = new Float64Array(FINE_BANDS);
  const squares = new Float64Array(FINE_BANDS);
  const peaks = new Float64Array(FINE_BANDS).fill(-Infinity);
  for (const frame of frames) {
    const levels = fine.levelsDb(frame);
    const around = fine.aroundDb(frame);
    for (let band = 0; band < FINE_BANDS; band++) {
      const db = levels[band];
      if (db - around[band] > THERE_DB) there[band]++;
      sums[band] += db;
      squares[band] += db * db;
      if (db > peaks[band]) peaks[band] = db;
    }
  }
  const [middle] = fine.percentilesDb(frames, [0.5]);
  const deviations = sums.map((sum, band) =>
    Math.sqrt(Math.max(0, squares[band] / frames.length - (sum / frames.length) ** 2)),
  );
  const change = changeOf(peaks, deviations, (hz) => isHum(hz) || isNoise(hz));
  if (change < LEAST_CHANGE_DB) return { found: [], changes: false };
  const around = medianAround(middle, FINE_SIDES);
  const highest = highestAround(middle, 2);
  const found: FoundSuspect[] = [];
  for (let band = 1; band < FINE_BANDS - 1; band++) {
    const presence = there[band] / frames.length;
    const prominenceDb = middle[band] - around[band];
    const isPeak = middle[band] === highest[band];
    const isSteady = Math.min(MOST_DEVIATION_DB, change / CHANGE_OVER_TONE) >= deviations[band];
    if (!isPeak || !isSteady || presence < LEAST_PRESENCE || prominenceDb < LEAST_PROMINENCE_DB) continue;
    const shift = topShift(middle[band - 1], middle[band], middle[band + 1]);
    const frequencyHz = FINE_HZ[band] * 2 ** (shift / FINE_PER_OCTAVE);
    if (isHum(frequencyHz)) continue;
    const half = 2 ** (0.5 / FINE_PER_OCTAVE);
    const width = Math.max(2 * fine.binHz, frequencyHz * (half - 1 / half));
    found.push({
      kind: 'resonance',
      frequencyHz,
      lowHz: frequencyHz - width / 2,
      highHz: frequencyHz + width / 2,
      prominenceDb,
      timeShare: presence,
      sureness: Math.min(0.99, presence * Math.min(1, prominenceDb / 20)),
    });
  }
  return { found: found.length > MOST_TONES ? [] : found, changes: true };
}

/** How much the bands move that are loudest at times, dB: the middle one of their deviations. */
function changeOf(levels: ArrayLike<number>, deviations: ArrayLike<number>, isSteady: (hz: number) => boolean): number {
  const loudest = Array.from({ length: FINE_BANDS }, (_, band) => band)
    .filter((band) => !isSteady(FINE_HZ[band]))
    .sort((a, b) => levels[b] - levels[a]);
  return percentile(
    loudest
      .slice(0, TELLING_BANDS)
      .map((band) => deviations[band])
      .sort((a, b) => a - b),
    0.5,
  );
}
