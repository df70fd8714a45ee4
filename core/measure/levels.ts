import { fillFrom, HELD_SAMPLES, measureKernel, type LevelAdder } from './kernel/kernel';
import { FLOOR_DB } from './spectrum';
import { correlationOf } from './stereo-image';

/** Energy of the left, of the right, the sum of their products, the peak of the left, that of the right: without the compiled kernel, its reference. */
export function plainLevelAdder(): LevelAdder {
  const [left, right] = [new Float64Array(HELD_SAMPLES), new Float64Array(HELD_SAMPLES)];
  const add = (frames: number, levels: Float64Array) => {
    let [ofLeft, ofRight, ofBoth, leftPeak, rightPeak] = [0, 0, levels[2], levels[3], levels[4]];
    for (let n = 0; n < frames; n++) {
      const l = left[n];
      const r = right[n];
      ofLeft += l * l;
      ofRight += r * r;
      ofBoth += l * r;
      leftPeak = Math.max(leftPeak, Math.abs(l));
      rightPeak = Math.max(rightPeak, Math.abs(r));
    }
    levels.set([levels[0] + ofLeft, levels[1] + ofRight, ofBoth, leftPeak, rightPeak]);
  };
  return { left, right, add };
}

let ofThisThread: LevelAdder | undefined;
const threadLevelAdder = () => (ofThisThread ??= measureKernel()?.levelAdder() ?? plainLevelAdder());

/** Sample peak, mean power, crest factor and correlation of one or two channels, pushed in pieces. */
export class LevelMeter {
  private readonly levels = new Float64Array(5);
  private channels = 0;
  private count = 0;

  /** @param adder what adds up; the fastest that this thread has */
  constructor(private readonly adder: LevelAdder = threadLevelAdder()) {}

  /** @param samples one array per channel, one or two */
  push(samples: readonly ArrayLike<number>[]): void {
    const { left, right, add } = this.adder;
    const { length } = samples[0];
    this.channels = samples.length;
    for (let at = 0; at < length; at += HELD_SAMPLES) {
      const run = Math.min(HELD_SAMPLES, length - at);
      fillFrom(left, samples[0], at, run);
      fillFrom(right, samples[samples.length - 1], at, run);
      add(run, this.levels);
    }
    this.count += length;
  }

  /** Greatest absolute sample, dBFS; {@link FLOOR_DB} for silence. */
  get samplePeakDb(): number {
    return toDb(Math.max(this.levels[3], this.levels[4]));
  }

  /** Root mean square over all channels, dB relative to full scale as amplitude 1; {@link FLOOR_DB} for silence. */
  get rmsDb(): number {
    return toDb(Math.sqrt((this.levels[0] + this.levels[1]) / 2 / Math.max(1, this.count)));
  }

  /** Peak over RMS, dB; 0 for silence. A sine has 3.01 dB. */
  get crestDb(): number {
    return this.samplePeakDb - this.rmsDb;
  }

  /** As {@link correlationOf} has it; null for one channel. */
  get correlation(): number | null {
    return this.channels < 2 ? null : correlationOf(this.levels[0], this.levels[1], this.levels[2]);
  }
}

/** An amplitude as dB, at least {@link FLOOR_DB}. */
export function toDb(amplitude: number): number {
  return Math.max(FLOOR_DB, 20 * Math.log10(amplitude));
}
