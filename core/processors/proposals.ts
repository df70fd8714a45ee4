import type { Compressor } from '../song';

/** Thresholds from a recording: levels are peaks of short stretches, dB. Softer than this counts as silence. */
const SILENT_DB = -80;
const BIN_DB = 1;

const heard = (levelsDb: ArrayLike<number>) => Array.from(levelsDb).filter((db) => db > SILENT_DB);

/**
 * Between what sounds and what only bleeds: the level that parts the two humps of the histogram best (N. Otsu, "A Threshold Selection
 * Method from Gray-Level Histograms", IEEE Trans. Systems, Man, and Cybernetics 9, 1979).
 * @returns dB; null where nothing is heard, or all is about as loud
 */
export function gateThresholdDb(levelsDb: ArrayLike<number>): number | null {
  const levels = heard(levelsDb).sort((a, b) => a - b);
  if (levels.length < 8 || levels[levels.length - 1] - levels[0] < 6) return null;
  const total = levels.reduce((sum, db) => sum + db, 0);
  let best: { between: number; from: number; to: number } | null = null;
  let below = 0;
  let count = 0;
  for (let at = SILENT_DB; at < 6; at += BIN_DB) {
    while (count < levels.length && levels[count] < at) below += levels[count++];
    const above = levels.length - count;
    if (count === 0 || above === 0) continue;
    const between = count * above * ((total - below) / above - below / count) ** 2;
    // Where nothing lies between the humps all of the gap is as good: its middle is taken.
    if (!best || between > best.between * (1 + 1e-9)) best = { between, from: at, to: at };
    else if (between > best.between * (1 - 1e-9)) best.to = at;
  }
  return best && (best.from + best.to) / 2;
}

/** What a compressor takes of the loud parts, dB, as it is proposed. Common practice: 2 to 4. */
const TAKEN_DB = 3;
const LOUD = 0.9;

/**
 * The threshold at which what is loud, nine tenths of what is heard lying below it, is brought down by 3 dB.
 * @returns dB; null where nothing is heard, or the ratio takes nothing
 */
export function compressorThresholdDb(
  levelsDb: ArrayLike<number>,
  { ratio, limits, kneeDb }: Pick<Compressor, 'ratio' | 'limits' | 'kneeDb'>,
): number | null {
  const levels = heard(levelsDb).sort((a, b) => a - b);
  const slope = limits ? 1 : 1 - 1 / ratio;
  if (levels.length === 0 || slope < 0.01) return null;
  const loud = levels[Math.floor(LOUD * (levels.length - 1))];
  // Within the knee slope·(over + knee/2)² / (2·knee), above it slope·over.
  const straight = TAKEN_DB / slope;
  const over = straight >= kneeDb / 2 ? straight : Math.sqrt((2 * kneeDb * TAKEN_DB) / slope) - kneeDb / 2;
  return Math.max(-80, Math.min(0, loud - over));
}
