import { STEP_SECONDS } from './band-levels';
import { kWeightingSections } from './k-weighting';

/** In silence a filter dies away to numbers so small that processors are slow with them: they are nothing. */
const settled = (state: number) => (Math.abs(state) < 1e-25 ? 0 : state);

/** K-weighted powers of a signal, one a step of 50 ms: what `integratedLufs` and its like are worked out from. Source: ITU-R BS.1770-4. */
export class LoudnessMeter {
  private readonly sections;
  /** Two states for each section of each channel. */
  private readonly states: Float64Array[];
  private readonly perStep: number;
  private sum = 0;
  private inStep = 0;
  private values = new Float64Array(1200);
  private count = 0;

  /** @param rateHz sample rate; @param channels 1 or 2, each with weight 1 */
  constructor(rateHz: number, channels: number) {
    this.sections = kWeightingSections(rateHz);
    this.states = Array.from({ length: channels }, () => new Float64Array(4));
    this.perStep = Math.round(rateHz * STEP_SECONDS);
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const count = samples[0].length;
    for (let at = 0; at < count;) {
      const run = Math.min(count - at, this.perStep - this.inStep);
      this.states.forEach((state, c) => (this.sum += this.powerOf(samples[c], at, run, state)));
      at += run;
      this.inStep += run;
      if (this.inStep === this.perStep) this.endStep();
    }
  }

  /** Sum of the squares of a run, K-weighted; transposed direct form II. */
  private powerOf(samples: ArrayLike<number>, at: number, run: number, state: Float64Array): number {
    const [shelf, pass] = this.sections;
    let [s1, s2, p1, p2] = state;
    let sum = 0;
    for (let n = at; n < at + run; n++) {
      const x = samples[n];
      const y = shelf.b0 * x + s1;
      s1 = shelf.b1 * x - shelf.a1 * y + s2;
      s2 = shelf.b2 * x - shelf.a2 * y;
      const z = pass.b0 * y + p1;
      p1 = pass.b1 * y - pass.a1 * z + p2;
      p2 = pass.b2 * y - pass.a2 * z;
      sum += z * z;
    }
    state[0] = settled(s1);
    state[1] = settled(s2);
    state[2] = settled(p1);
    state[3] = settled(p2);
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
