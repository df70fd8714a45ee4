import {
  FINE_BANDS,
  FINE_HZ,
  FINE_PER_OCTAVE,
  type FineSpectrum,
  highestAround,
  lowestAround,
  medianAround,
} from './fine-spectrum';
import { percentile, topShift } from './frames';
import type { Suspect } from './suspect';

/** A tone counts as there where it stands this far over the middle of a third of an octave to either side, dB … */
const THERE_DB = 9;
const SIDES = FINE_PER_OCTAVE / 3;
/** … for this share of the time in which the recording sounds, while its level hardly moves, dB: no note of a tune does both. */
const LEAST_PRESENCE = 0.9;
const MOST_DEVIATION_DB = 9;
const LEAST_PROMINENCE_DB = 12;
/** Too short to tell what stays from what is played, frames of 85 ms. */
const FEWEST_FRAMES = 40;
/** Steady tones that are more than these are what the recording is about. */
const MOST_TONES = 4;
/** So many of the loudest bands tell whether what is played changes: their levels move by this much, and more than the tone's, dB. */
const TELLING_BANDS = 24;
const LEAST_CHANGE_DB = 9;
const CHANGE_OVER_TONE = 1.4;

/** Tones that stay put whatever is played: rings and whistles. */
export function steadyTones(fine: FineSpectrum): Suspect[] {
  const frames = fine.sounding;
  if (frames.length < FEWEST_FRAMES) return [];
  const there = new Float64Array(FINE_BANDS);
  const sums = new Float64Array(FINE_BANDS);
  const squares = new Float64Array(FINE_BANDS);
  for (const frame of frames) {
    const levels = Float64Array.from({ length: FINE_BANDS }, (_, band) => fine.levelDb(frame, band));
    const around = medianAround(levels, SIDES);
    levels.forEach((db, band) => {
      if (db - around[band] > THERE_DB) there[band]++;
      sums[band] += db;
      squares[band] += db * db;
    });
  }
  const middle = fine.percentileDb(frames, 0.5);
  const deviations = sums.map((sum, band) =>
    Math.sqrt(Math.max(0, squares[band] / frames.length - (sum / frames.length) ** 2)),
  );
  const change = changeOf(middle, deviations);
  if (change < LEAST_CHANGE_DB) return [];
  const around = medianAround(middle, SIDES);
  const highest = highestAround(middle, 2);
  const found: Suspect[] = [];
  for (let band = 1; band < FINE_BANDS - 1; band++) {
    const presence = there[band] / frames.length;
    const prominenceDb = middle[band] - around[band];
    const isPeak = middle[band] === highest[band];
    const isSteady = Math.min(MOST_DEVIATION_DB, change / CHANGE_OVER_TONE) >= deviations[band];
    if (!isPeak || !isSteady || presence < LEAST_PRESENCE || prominenceDb < LEAST_PROMINENCE_DB) continue;
    const shift = topShift(middle[band - 1], middle[band], middle[band + 1]);
    const frequencyHz = FINE_HZ[band] * 2 ** (shift / FINE_PER_OCTAVE);
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
  return found.length > MOST_TONES ? [] : found;
}

/** How much the loudest bands move, dB: the middle one of their deviations. */
function changeOf(levels: ArrayLike<number>, deviations: ArrayLike<number>): number {
  const loudest = Array.from({ length: FINE_BANDS }, (_, band) => band).sort((a, b) => levels[b] - levels[a]);
  return percentile(
    loudest
      .slice(0, TELLING_BANDS)
      .map((band) => deviations[band])
      .sort((a, b) => a - b),
    0.5,
  );
}

/** Where a box rings, Hz: common practice is 120 to 500. Below, notes lie too close for the ground between them to be seen. */
const BOX_LOW_HZ = 180;
const BOX_HIGH_HZ = 600;
/** The ground is the lowest of a fifth of an octave; a bump of it stands over the middle of an octave and a half. */
const GROUND_REACH = 2;
const BASE_REACH = 18;
const LEAST_BUMP_DB = 7;
/** A bump is this much higher than the next one, and not further below the loudest bands than this, dB. */
const NEXT_BUMP_DB = 3;
const BUMP_RANGE_DB = 35;
const WIDEST_OCTAVES = 0.6;

/**
 * A resonance of the body, which has no tone of its own: what sounds between the notes is lifted in one place. The ground is looked at,
 * the lowest level of a fifth of an octave, half of the time; notes are narrower and do not show in it.
 */
export function bodyResonance(fine: FineSpectrum): Suspect[] {
  const frames = fine.sounding;
  if (frames.length < FEWEST_FRAMES) return [];
  const middle = fine.percentileDb(frames, 0.5);
  const soft = fine.percentileDb(frames, 0.15);
  const spread = fine.percentileDb(frames, 0.85).map((db, band) => (db - soft[band]) / 2);
  if (changeOf(middle, spread) < LEAST_CHANGE_DB) return [];
  const ground = lowestAround(middle, GROUND_REACH);
  const base = medianAround(ground, BASE_REACH);
  const height = ground.map((db, band) => db - base[band]);
  const isInside = (band: number) => FINE_HZ[band] >= BOX_LOW_HZ && FINE_HZ[band] <= BOX_HIGH_HZ;
  const bumps: { first: number; last: number; top: number }[] = [];
  for (let band = 0; band < FINE_BANDS; band++) {
    if (!isInside(band) || height[band] < LEAST_BUMP_DB / 2) continue;
    let last = band;
    while (isInside(last + 1) && height[last + 1] >= LEAST_BUMP_DB / 2) last++;
    bumps.push({ first: band, last, top: Math.max(...height.slice(band, last + 1)) });
    band = last;
  }
  bumps.sort((a, b) => b.top - a.top);
  const [bump, next] = bumps;
  const loudest = Math.max(...middle);
  if (
    !bump ||
    bump.top < LEAST_BUMP_DB ||
    bump.top - (next?.top ?? 0) < NEXT_BUMP_DB ||
    Math.max(...ground.slice(bump.first, bump.last + 1)) < loudest - BUMP_RANGE_DB ||
    bump.last - bump.first + 1 > WIDEST_OCTAVES * FINE_PER_OCTAVE
  )
    return [];
  const frequencyHz = widestGapHz(middle, bump.first, bump.last);
  const half = 2 ** ((bump.last - bump.first + 1) / 2 / FINE_PER_OCTAVE);
  return [
    {
      kind: 'resonance',
      frequencyHz,
      lowHz: frequencyHz / half,
      highHz: frequencyHz * half,
      prominenceDb: bump.top,
      timeShare: 0.5,
      sureness: Math.min(0.8, bump.top / 15),
    },
  ];
}

/** The middle of the widest gap between notes in a range: there the body shows best. */
function widestGapHz(levels: ArrayLike<number>, first: number, last: number): number {
  let best = (first + last) / 2;
  let widest = 0;
  for (let band = first; band <= last; band++) {
    if (levels[band] > levels[band - 1] || levels[band] > levels[band + 1]) continue;
    let [left, right] = [band, band];
    while (left > 0 && levels[left - 1] >= levels[left]) left--;
    while (right < FINE_BANDS - 1 && levels[right + 1] >= levels[right]) right++;
    const flat = { from: band, to: band };
    while (levels[flat.from - 1] - levels[band] < 1.5 && flat.from - 1 > left) flat.from--;
    while (levels[flat.to + 1] - levels[band] < 1.5 && flat.to + 1 < right) flat.to++;
    if (right - left > widest) [widest, best] = [right - left, (flat.from + flat.to) / 2];
  }
  return 20 * 2 ** ((best + 0.5) / FINE_PER_OCTAVE);
}
