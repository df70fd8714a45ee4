import { fillFrom, HELD_SAMPLES, measureKernel, type ExtremesFinder } from './kernel/kernel';

/** Frames behind one entry of a waveform as it is kept. */
export const PEAKS_BASE_FRAMES = 256;

/** A waveform seen from afar: the least and greatest sample of every stretch, all channels together. */
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

/** What was found of a recording's peaks. */
export interface Peaks {
  /** Least and greatest of every {@link PEAKS_BASE_FRAMES} frames, in steps of {@link PACKED_STEP}. */
  waveform: Int16Array;
  /** All of it in at most {@link MOST_OVERVIEW_ENTRIES} entries, to three digits; null for no samples. */
  overview: PeaksLevel | null;
}

/** The most entries of a waveform that is seen whole. */
const MOST_OVERVIEW_ENTRIES = 2000;

/** Finds the peaks of a recording that comes in pieces of any length. */
export class PeaksBuilder {
  /** Beside the heap: hours of sound have millions of them. */
  private found = new Float32Array(4096);
  private count = 0;
  /** The least and the greatest sample of the entry that is not full yet. */
  private readonly current = Float64Array.of(Infinity, -Infinity);
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
        find(run, this.current);
      }
      this.seen += run;
      at += run;
      if (this.seen === PEAKS_BASE_FRAMES) this.close();
    }
  }

  private close(): void {
    if (this.count === this.found.length) {
      const longer = new Float32Array(2 * this.count);
      longer.set(this.found);
      this.found = longer;
    }
    this.found.set(this.current, this.count);
    this.count += 2;
    this.current.set([Infinity, -Infinity]);
    this.seen = 0;
  }

  finish(): Peaks {
    if (this.seen > 0) this.close();
    const extremes = this.found.subarray(0, this.count);
    const entries = this.count / 2;
    const merged = Math.ceil(entries / MOST_OVERVIEW_ENTRIES);
    return {
      waveform: packWaveform(extremes),
      overview:
        entries === 0
          ? null
          : { framesPerEntry: PEAKS_BASE_FRAMES * merged, extremes: mergedExtremes(extremes, 0, entries, merged, 1) },
    };
  }
}

const threeDigits = (value: number) => Number(value.toPrecision(3));

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

/** A waveform as it is kept: 16-bit integers of {@link PACKED_STEP}. @param extremes min, max, min, max … */
function packWaveform(extremes: Float32Array): Int16Array {
  const packed = new Int16Array(extremes.length);
  for (let i = 0; i < extremes.length; i++)
    packed[i] = Math.max(-32767, Math.min(32767, Math.round(extremes[i] / PACKED_STEP)));
  return packed;
}

/**
 * A stretch of a waveform, as fine as it is drawn.
 * @param packed see {@link Peaks.waveform}
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
