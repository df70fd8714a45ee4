/** Frames behind one entry of the finest level of the pyramid. */
export const PEAKS_BASE_FRAMES = 256;
const FACTOR = 4;

/** A waveform seen from afar: for each level the least and greatest sample of every stretch, all channels together. */
export interface PeaksLevel {
  framesPerEntry: number;
  /** min, max, min, max …; linear, 0 dBFS = 1 */
  extremes: number[];
}

/** Builds the pyramid of peaks from pieces of any length. */
export class PeaksBuilder {
  private readonly base: number[] = [];
  private min = Infinity;
  private max = -Infinity;
  private seen = 0;

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const { length } = samples[0];
    for (let at = 0; at < length;) {
      const end = Math.min(length, at + PEAKS_BASE_FRAMES - this.seen);
      let { min, max } = this;
      for (const channel of samples)
        for (let n = at; n < end; n++) {
          const value = channel[n];
          if (value < min) min = value;
          if (value > max) max = value;
        }
      this.min = min;
      this.max = max;
      this.seen += end - at;
      at = end;
      if (this.seen === PEAKS_BASE_FRAMES) this.close();
    }
  }

  private close(): void {
    this.base.push(this.min, this.max);
    this.min = Infinity;
    this.max = -Infinity;
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
  const extremes: number[] = [];
  for (let first = 0; first < entries; first += merged) {
    let [min, max] = [Infinity, -Infinity];
    for (let i = first; i < Math.min(entries, first + merged); i++) {
      min = Math.min(min, fine.extremes[2 * i]);
      max = Math.max(max, fine.extremes[2 * i + 1]);
    }
    extremes.push(threeDigits(min), threeDigits(max));
  }
  return [{ framesPerEntry: fine.framesPerEntry * merged, extremes }];
}
