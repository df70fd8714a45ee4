import { fillFrom, HELD_SAMPLES, measureKernel, type ExtremesFinder } from './kernel/kernel';

/** Frames behind one entry of the finest level of the pyramid. */
export const PEAKS_BASE_FRAMES = 256;
const FACTOR = 4;

/** A waveform seen from afar: for each level the least and greatest sample of every stretch, all channels together. */
export interface PeaksLevel {
  framesPerEntry: number;
  /** Where the first entry begins; 0 where nothing is said. */
  firstFrame?: number;
  /** min, max, min, max …; linear, 0 dBFS = 1 */
  extremes: number[];
}

/** Finds extremes without the compiled kernel: its reference. */
export function plainExtremesFinder(): ExtremesFinder {
  const held = new Float64Array(HELD_SAMPLES);
  const find = (count: number, found: Float64Array) => {
    for (let n = 0; n < count; n++) {
      found[0] = Math.min(found[0], held[n]);
      found[1] = Math.max(found[1], held[n]);
    }
  };
  return { held, find };
}

let ofThisThread: ExtremesFinder | undefined;
const threadExtremesFinder = () => (ofThisThread ??= measureKernel()?.extremesFinder() ?? plainExtremesFinder());

/** Builds the pyramid of peaks from pieces of any length. */
export class PeaksBuilder {
  private readonly base: number[] = [];
  /** The least and the greatest sample of the entry that is not full yet. */
  private readonly found = Float64Array.of(Infinity, -Infinity);
  private seen = 0;

  /** @param finder the fastest that this thread has */
  constructor(private readonly finder: ExtremesFinder = threadExtremesFinder()) {}

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const { held, find } = this.finder;
    const { length } = samples[0];
    for (let at = 0; at < length;) {
      const run = Math.min(length - at, PEAKS_BASE_FRAMES - this.seen);
      for (const channel of samples) {
        fillFrom(held, channel, at, run);
        find(run, this.found);
      }
      this.seen += run;
      at += run;
      if (this.seen === PEAKS_BASE_FRAMES) this.close();
    }
  }

  private close(): void {
    this.base.push(...this.found);
    this.found.set([Infinity, -Infinity]);
    this.seen = 0;
  }

  /** Every level down to one of at most 1000 entries; each entry is rounded to 1e-4. Empty for no samples. */
  finish(): PeaksLevel[] {
    if (this.seen > 0) this.close();
    const levels: PeaksLevel[] = [];
    let extremes = this.base;
    for (let frames = PEAKS_BASE_FRAMES; extremes.length > 0; frames *= FACTOR) {
      levels.push({ framesPerEntry: frames, extremes: extremes.map((value) => Math.round(value * 1e4) / 1e4) });
      if (extremes.length <= 2000) break;
      const coarser: number[] = [];
      for (let i = 0; i < extremes.length; i += 2 * FACTOR) {
        const group = extremes.slice(i, i + 2 * FACTOR);
        coarser.push(Math.min(...group), Math.max(...group));
      }
      extremes = coarser;
    }
    return levels;
  }
}

/** The most entries of a waveform that is seen whole. */
const MOST_OVERVIEW_ENTRIES = 2000;
const threeDigits = (value: number) => Number(value.toPrecision(3));

/** A pyramid of peaks as one level of at most 2000 entries, to three digits; none for no samples. */
export function peaksOverview(levels: readonly PeaksLevel[]): PeaksLevel[] {
  const fine = levels.findLast(({ extremes }) => extremes.length > MOST_OVERVIEW_ENTRIES) ?? levels[0];
  if (!fine) return [];
  const entries = fine.extremes.length / 2;
  const merged = Math.ceil(entries / MOST_OVERVIEW_ENTRIES);
  return [
    { framesPerEntry: fine.framesPerEntry * merged, extremes: mergedExtremes(fine.extremes, 0, entries, merged, 1) },
  ];
}

/** Entries `first` to `end`, so many together as one, times a scale, to three digits. */
function mergedExtremes(fine: ArrayLike<number>, first: number, end: number, merged: number, scale: number): number[] {
  const extremes: number[] = [];
  for (let from = first; from < end; from += merged) {
    let [min, max] = [Infinity, -Infinity];
    for (let i = from; i < Math.min(end, from + merged); i++) {
      min = Math.min(min, fine[2 * i]);
      max = Math.max(max, fine[2 * i + 1]);
    }
    extremes.push(threeDigits(min * scale), threeDigits(max * scale));
  }
  return extremes;
}

/** The step of a packed waveform; it holds ±{@link PACKED_STEP} × 32767, 16 dB above full scale. */
const PACKED_STEP = 2e-4;

/** The finest level of a pyramid: 16-bit integers of {@link PACKED_STEP}, least and greatest of every {@link PEAKS_BASE_FRAMES} frames. */
export function packWaveform([finest]: readonly PeaksLevel[]): Int16Array {
  const steps = (value: number) => Math.max(-32767, Math.min(32767, Math.round(value / PACKED_STEP)));
  return Int16Array.from(finest?.extremes ?? [], steps);
}

/**
 * A stretch of a waveform, as fine as it is drawn.
 * @param packed see {@link packWaveform}
 * @param fromFrame where the stretch begins, from 0
 * @param toFrame where it ends
 * @param most how many entries at most
 * @returns entries that cover the stretch as far as there is sound, to three digits
 */
export function waveformStretch(packed: Int16Array, fromFrame: number, toFrame: number, most: number): PeaksLevel {
  // On a grid of whole merged entries, so that the same sound has the same entries wherever a stretch begins.
  const merged = Math.max(1, Math.ceil((toFrame - fromFrame) / PEAKS_BASE_FRAMES / Math.max(1, most - 1)));
  const framesPerEntry = PEAKS_BASE_FRAMES * merged;
  const first = Math.floor(fromFrame / framesPerEntry) * merged;
  const end = Math.min(packed.length / 2, Math.ceil(toFrame / framesPerEntry) * merged);
  const extremes = mergedExtremes(packed, first, end, merged, PACKED_STEP);
  return { framesPerEntry, firstFrame: first * PEAKS_BASE_FRAMES, extremes };
}
