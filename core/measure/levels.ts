import { STEP_SECONDS } from './band-levels';
import { fillFrom, HELD_SAMPLES, measureKernel, type LevelAdder } from './kernel/kernel';
import { kWeightingSections } from './k-weighting';
import { FLOOR_DB } from './spectrum';
import { correlationOf } from './stereo-image';

/** In silence a filter dies away to numbers so small that processors are slow with them: they are nothing. */
const settled = (state: number) => (Math.abs(state) < 1e-25 ? 0 : state);

/** Levels with and without K-weighting, without the compiled kernel: its reference. */
export function plainLevelAdder(rateHz: number): LevelAdder {
  const [shelf, pass] = kWeightingSections(rateHz);
  const [left, right] = [new Float64Array(HELD_SAMPLES), new Float64Array(HELD_SAMPLES)];
  const energies = new Float64Array(2);
  /** Transposed direct form II. */
  const addSide = (samples: Float64Array, channel: number, states: Float64Array, levels: Float64Array) => {
    let [s1, s2, p1, p2] = [0, 2, 4, 6].map((pair) => states[pair + channel]);
    let [sum, squares, peak] = [0, 0, 0];
    for (const x of samples) {
      const y = shelf.b0 * x + s1;
      s1 = shelf.b1 * x + s2 - shelf.a1 * y;
      s2 = shelf.b2 * x - shelf.a2 * y;
      const z = pass.b0 * y + p1;
      p1 = pass.b1 * y + p2 - pass.a1 * z;
      p2 = pass.b2 * y - pass.a2 * z;
      sum += z * z;
      squares += x * x;
      peak = Math.max(peak, Math.abs(x));
    }
    [s1, s2, p1, p2].forEach((state, i) => (states[2 * i + channel] = settled(state)));
    levels[channel] += squares;
    levels[2 + channel] = Math.max(levels[2 + channel], peak);
    energies[channel] = sum;
  };
  const add = (from: number, frames: number, states: Float64Array, levels: Float64Array) => {
    [left, right].forEach((side, channel) => addSide(side.subarray(from, from + frames), channel, states, levels));
    let products = 0;
    for (let n = from; n < from + frames; n++) products += left[n] * right[n];
    levels[4] += products;
    return energies;
  };
  return { left, right, add };
}

/** What adds up levels in this thread, for each rate. */
const adders = new Map<number, LevelAdder>();
function threadLevelAdder(rateHz: number): LevelAdder {
  let adder = adders.get(rateHz);
  if (!adder) {
    const factors = kWeightingSections(rateHz).flatMap(({ b0, b1, b2, a1, a2 }) => [b0, b1, b2, a1, a2]);
    adders.set(rateHz, (adder = measureKernel()?.levelAdder(factors) ?? plainLevelAdder(rateHz)));
  }
  return adder;
}

/**
 * K-weighted powers of a signal, one a step of 50 ms, which `integratedLufs` and its like are worked out from (ITU-R BS.1770-4); and its sample peak, mean power, crest
 * factor and correlation. One or two channels, pushed in pieces, each with weight 1.
 */
export class LevelMeter {
  /** Two states for each section of each channel: those of both channels in turn. */
  private readonly states = new Float64Array(8);
  private readonly perStep: number;
  private energy = 0;
  private inStep = 0;
  private steps = new Float64Array(1200);
  private stepCount = 0;
  /** As {@link LevelAdder} adds to them. */
  private readonly levels = new Float64Array(5);
  private channels = 0;
  private count = 0;

  /**
   * @param rateHz sample rate
   * @param adder what adds up; the fastest that this thread has
   */
  constructor(
    rateHz: number,
    private readonly adder: LevelAdder = threadLevelAdder(rateHz),
  ) {
    this.perStep = Math.round(rateHz * STEP_SECONDS);
  }

  /** @param samples one array per channel, one or two, of equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const { left, right } = this.adder;
    const { length } = samples[0];
    this.channels = samples.length;
    for (let at = 0; at < length; at += HELD_SAMPLES) {
      const run = Math.min(HELD_SAMPLES, length - at);
      fillFrom(left, samples[0], at, run);
      fillFrom(right, samples[samples.length - 1], at, run);
      for (let from = 0; from < run;) from += this.addUpToStep(from, run - from);
    }
    this.count += length;
  }

  /** @returns how many of what is held it has added */
  private addUpToStep(from: number, most: number): number {
    const run = Math.min(most, this.perStep - this.inStep);
    const energies = this.adder.add(from, run, this.states, this.levels);
    for (let c = 0; c < this.channels; c++) this.energy += energies[c];
    this.inStep += run;
    if (this.inStep === this.perStep) this.endStep();
    return run;
  }

  private endStep(): void {
    if (this.stepCount === this.steps.length) {
      const longer = new Float64Array(2 * this.steps.length);
      longer.set(this.steps);
      this.steps = longer;
    }
    this.steps[this.stepCount++] = this.energy / this.perStep;
    this.energy = this.inStep = 0;
  }

  /** K-weighted mean square of every whole step so far, summed over the channels. */
  get powers(): Float64Array {
    return this.steps.subarray(0, this.stepCount);
  }

  /** Greatest absolute sample, dBFS; {@link FLOOR_DB} for silence. */
  get samplePeakDb(): number {
    return toDb(Math.max(this.levels[2], this.levels[3]));
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
    return this.channels < 2 ? null : correlationOf(this.levels[0], this.levels[1], this.levels[4]);
  }
}

/** An amplitude as dB, at least {@link FLOOR_DB}. */
export function toDb(amplitude: number): number {
  return Math.max(FLOOR_DB, 20 * Math.log10(amplitude));
}
