import type { Kernel, Levels, Samples, SectionMemory } from './kernel';
import {
  EASED_AT,
  EASING_STAGES,
  EASING_STEP,
  LANES,
  MAX_BLOCK,
  PARAMETERS,
  SECTION_STRIDE,
  SILENCE,
  STARTS_AT,
  STATES_AT,
  TARGETS_AT,
} from './layout';

/** The kernel in plain TypeScript: what the compiled one is tested against, operation by operation, and what stands in for it. */
export class ReferenceKernel implements Kernel {
  readonly name = 'reference';
  readonly left = new Float64Array(MAX_BLOCK);
  readonly right = new Float64Array(MAX_BLOCK);
  readonly gains = new Float64Array(MAX_BLOCK);
  readonly floats = new Float32Array(LANES * MAX_BLOCK);
  private readonly ones = new Float64Array(MAX_BLOCK).fill(1);
  private readonly lanes = [new Float64Array(MAX_BLOCK), new Float64Array(MAX_BLOCK)];

  allocate(sections: number): SectionMemory {
    return { numbers: new Float64Array(sections * SECTION_STRIDE) };
  }

  release(): void {
    // Its memory is the thread's own, which is cleared up by itself.
  }

  load(left: Float64Array, right: Float64Array | null, at: number, frames: number): void {
    const [first, second] = this.lanes;
    const other = right ?? left;
    for (let n = 0; n < frames; n++) {
      first[n] = left[at + n];
      second[n] = other[at + n];
    }
  }

  store(left: Float64Array, right: Float64Array | null, at: number, frames: number): void {
    const [first, second] = this.lanes;
    for (let n = 0; n < frames; n++) left[at + n] = first[n];
    if (right) for (let n = 0; n < frames; n++) right[at + n] = second[n];
  }

  loadFloats(frames: number, mono: boolean): boolean {
    const step = mono ? 1 : LANES;
    let oddities = 0;
    for (let lane = 0; lane < LANES; lane++) {
      const samples = this.lanes[lane];
      for (let n = 0, at = mono ? 0 : lane; n < frames; n++, at += step) {
        samples[n] = this.floats[at];
        oddities += samples[n] - samples[n]; // 0 for every number, NaN for NaN and the infinities
      }
    }
    return oddities === 0;
  }

  storeFloats(frames: number, mono: boolean, factors: readonly [number, number]): void {
    const step = mono ? 1 : LANES;
    for (let lane = 0; lane < step; lane++)
      for (let n = 0, at = lane; n < frames; n++, at += step) this.floats[at] = factors[lane] * this.lanes[lane][n];
  }

  loadPlanar(left: Float32Array, right: Float32Array, at: number, frames: number): boolean {
    const [first, second] = this.lanes;
    let isSilent = true;
    for (let n = 0; n < frames; n++) {
      first[n] = left[at + n];
      second[n] = right[at + n];
      isSilent &&= Object.is(first[n], 0) && Object.is(second[n], 0);
    }
    return !isSilent;
  }

  mix(left: Float64Array, right: Float64Array, leftFactor: number, rightFactor: number, frames: number): void {
    const [first, second] = this.lanes;
    for (let n = 0; n < frames; n++) {
      left[n] += first[n] * leftFactor;
      right[n] += second[n] * rightFactor;
    }
  }

  add(sum: Float64Array, samples: Float64Array, frames: number): void {
    for (let n = 0; n < frames; n++) sum[n] += samples[n];
  }

  addScaled(sum: Float64Array, samples: Float64Array, factor: number, frames: number, levels: Levels | null): void {
    this.addMoving(sum, samples, this.ones, factor, frames, levels);
  }

  addMoving(sum: Samples, from: Samples, gains: Samples, factor: number, frames: number, levels: Levels | null): void {
    let peak = 0;
    // Every second square apart, as the compiled kernel adds them.
    let [even, odd] = [0, 0];
    for (let n = 0; n < frames; n++) {
      const value = from[n] * gains[n] * factor;
      sum[n] += value;
      if (n % 2 === 0) even += value * value;
      else odd += value * value;
      const size = Math.abs(value);
      if (size > peak) peak = size;
    }
    if (!levels) return;
    levels.peak = Math.max(levels.peak, peak);
    levels.power += even + odd;
  }

  areFinite(samples: Float64Array, frames: number): boolean {
    // A sum of zeros is no number where one of them was none, or was infinite.
    let zeros = 0;
    for (let n = 0; n < frames; n++) zeros += samples[n] * 0;
    return zeros === 0;
  }

  toMidSide(frames: number): void {
    const [first, second] = this.lanes;
    for (let n = 0; n < frames; n++) {
      const [l, r] = [0.5 * first[n], 0.5 * second[n]];
      first[n] = l + r;
      second[n] = l - r;
    }
  }

  toLeftRight(frames: number): void {
    const [first, second] = this.lanes;
    for (let n = 0; n < frames; n++) {
      const [mid, side] = [first[n], second[n]];
      first[n] = mid + side;
      second[n] = mid - side;
    }
  }

  run({ numbers }: SectionMemory, first: number, count: number, frames: number): void {
    for (let i = first; i < first + count; i++)
      for (let lane = 0; lane < LANES; lane++)
        this.runLane(numbers, i * SECTION_STRIDE + lane, this.lanes[lane], frames);
  }

  runOfOne(memory: SectionMemory, first: number, count: number, frames: number): void {
    // A product with 1 is exact.
    this.run(memory, first, count, frames);
  }

  private runLane(numbers: Float64Array, at: number, samples: Float64Array, frames: number): void {
    const [b0, b1, b2] = [numbers[at], numbers[at + LANES], numbers[at + 2 * LANES]];
    const [a1, a2] = [numbers[at + 3 * LANES], numbers[at + 4 * LANES]];
    let w1 = numbers[at + STATES_AT];
    let w2 = numbers[at + STATES_AT + LANES];
    for (let n = 0; n < frames; n++) {
      const w = samples[n] - a2 * w2 - a1 * w1;
      samples[n] = b0 * w + (b1 * w1 + b2 * w2);
      w2 = w1;
      w1 = w;
    }
    numbers[at + STATES_AT] = w1;
    numbers[at + STATES_AT + LANES] = w2;
  }

  ease({ numbers }: SectionMemory, first: number, count: number, frames: number, follow: number, phase: number): void {
    for (let i = first; i < first + count; i++)
      for (let lane = 0; lane < LANES; lane++)
        this.easeLane(numbers, i * SECTION_STRIDE + lane, this.lanes[lane], frames, follow, phase);
  }

  flush({ numbers }: SectionMemory, first: number, count: number): void {
    for (let i = first; i < first + count; i++) {
      const states = i * SECTION_STRIDE + STATES_AT;
      for (let at = states; at < states + 2 * LANES; at++) if (Math.abs(numbers[at]) < SILENCE) numbers[at] = 0;
    }
  }

  private easeLane(
    numbers: Float64Array,
    at: number,
    samples: Float64Array,
    frames: number,
    follow: number,
    phase: number,
  ): void {
    const starts = at + STARTS_AT;
    const ends = at + EASED_AT + (EASING_STAGES - 1) * PARAMETERS * LANES;
    let s1 = numbers[at + STATES_AT];
    let s2 = numbers[at + STATES_AT + LANES];
    for (let p = 0; p < frames; phase = 0) {
      if (phase === 0) advance(numbers, at, follow);
      let [d1, c2, c3, m0, m1, m2] = matrixOf(numbers, starts);
      const moves = matrixOf(numbers, ends).map((end, i) => (1 / EASING_STEP) * (end - [d1, c2, c3, m0, m1, m2][i]));
      // What moves is the sum that d1 is one less than.
      moves[0] = (1 / EASING_STEP) * (solved(numbers, ends) - solved(numbers, starts));
      const stop = Math.min(frames, p + EASING_STEP - phase);
      for (let q = p - phase; q < stop; q++) {
        d1 += moves[0];
        c2 += moves[1];
        c3 += moves[2];
        m0 += moves[3];
        m1 += moves[4];
        m2 += moves[5];
        if (q < p) continue;
        const x = samples[q];
        const into = x - s2;
        const t1 = d1 * s1 + c2 * into;
        const t2 = s2 + c2 * s1 + c3 * into;
        samples[q] = m0 * x + (m1 * (t1 + s1) + m2 * (t2 + s2));
        s1 = t1;
        s2 = t2;
      }
      p = stop;
    }
    numbers[at + STATES_AT] = s1;
    numbers[at + STATES_AT + LANES] = s2;
  }
}

/** Of g and k: 2 / (1 + g·(g + k)) */
const solved = (numbers: Float64Array, at: number) => 2 / (1 + numbers[at] * (numbers[at] + numbers[at + LANES]));

/** What a lane computes with its parameters: d1, c2, c3 of its states, and its output's shares; see `assembly/kernel.ts`. */
function matrixOf(numbers: Float64Array, at: number): number[] {
  const first = solved(numbers, at);
  const c2 = numbers[at] * first;
  return [
    first - 1,
    c2,
    numbers[at] * c2,
    numbers[at + 2 * LANES],
    0.5 * numbers[at + 3 * LANES],
    0.5 * numbers[at + 4 * LANES],
  ];
}

/** The next step of a lane's parameters begins where the last one has ended. */
function advance(numbers: Float64Array, at: number, follow: number): void {
  const last = at + EASED_AT + (EASING_STAGES - 1) * PARAMETERS * LANES;
  for (let p = 0; p < PARAMETERS * LANES; p += LANES) {
    numbers[at + STARTS_AT + p] = numbers[last + p];
    let value = numbers[at + TARGETS_AT + p];
    for (let eased = at + EASED_AT + p; eased <= last + p; eased += PARAMETERS * LANES)
      value = numbers[eased] += follow * (value - numbers[eased]);
  }
}
