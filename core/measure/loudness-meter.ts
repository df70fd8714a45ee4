import { STEP_SECONDS } from './band-levels';
import { fillFrom, HELD_SAMPLES, measureKernel, type EnergyMeter } from './kernel/kernel';
import { kWeightingSections } from './k-weighting';

/** The compiled kernel of this thread for a rate, where there is one. */
const meters = new Map<number, EnergyMeter | null>();
function energyMeter(rateHz: number): EnergyMeter | null {
  let meter = meters.get(rateHz);
  if (meter === undefined) {
    const factors = kWeightingSections(rateHz).flatMap(({ b0, b1, b2, a1, a2 }) => [b0, b1, b2, a1, a2]);
    meters.set(rateHz, (meter = measureKernel()?.energyMeter(factors) ?? null));
  }
  return meter;
}

/** In silence a filter dies away to numbers so small that processors are slow with them: they are nothing. */
const settled = (state: number) => (Math.abs(state) < 1e-25 ? 0 : state);

/** K-weighted powers of a signal, one a step of 50 ms: what `integratedLufs` and its like are worked out from. Source: ITU-R BS.1770-4. */
export class LoudnessMeter {
  private readonly sections;
  /** Two states for each section of each channel: those of both channels in turn. */
  private readonly states = new Float64Array(8);
  private readonly perStep: number;
  private sum = 0;
  private inStep = 0;
  private values = new Float64Array(1200);
  private count = 0;

  /**
   * @param rateHz sample rate
   * @param channels 1 or 2, each with weight 1
   * @param compiled what runs the filters; null for the plain ones, which give the same to the last bit
   */
  constructor(
    rateHz: number,
    private readonly channels: number,
    private readonly compiled: EnergyMeter | null = energyMeter(rateHz),
  ) {
    this.sections = kWeightingSections(rateHz);
    this.perStep = Math.round(rateHz * STEP_SECONDS);
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const count = samples[0].length;
    for (let at = 0; at < count;) {
      const run = Math.min(count - at, this.perStep - this.inStep, HELD_SAMPLES);
      this.addEnergies(samples, at, run);
      at += run;
      this.inStep += run;
      if (this.inStep === this.perStep) this.endStep();
    }
  }

  private addEnergies(samples: readonly ArrayLike<number>[], at: number, run: number): void {
    const { compiled, channels } = this;
    if (!compiled) {
      for (let c = 0; c < channels; c++) this.sum += this.energyOf(samples[c], at, run, c);
      return;
    }
    fillFrom(compiled.left, samples[0], at, run);
    fillFrom(compiled.right, samples[channels - 1], at, run);
    const energies = compiled.run(run, this.states);
    for (let c = 0; c < channels; c++) this.sum += energies[c];
  }

  /** Sum of the squares of a run, K-weighted; transposed direct form II. */
  private energyOf(samples: ArrayLike<number>, at: number, run: number, channel: number): number {
    const [shelf, pass] = this.sections;
    const { states } = this;
    let [s1, s2, p1, p2] = [0, 2, 4, 6].map((pair) => states[pair + channel]);
    let sum = 0;
    for (let n = at; n < at + run; n++) {
      const x = samples[n];
      const y = shelf.b0 * x + s1;
      s1 = shelf.b1 * x + s2 - shelf.a1 * y;
      s2 = shelf.b2 * x - shelf.a2 * y;
      const z = pass.b0 * y + p1;
      p1 = pass.b1 * y + p2 - pass.a1 * z;
      p2 = pass.b2 * y - pass.a2 * z;
      sum += z * z;
    }
    [s1, s2, p1, p2].forEach((state, i) => (states[2 * i + channel] = settled(state)));
    return sum;
  }

  private endStep(): void {
    if (this.count === this.values.length) {
      const longer = new Float64Array(2 * this.values.length);
      longer.set(this.values);
      this.values = longer;
    }
    this.values[this.count++] = this.sum / this.perStep;
    this.sum = this.inStep = 0;
  }

  /** Mean square of every whole step so far, summed over the channels. */
  get powers(): Float64Array {
    return this.values.subarray(0, this.count);
  }
}
