import type { Kernel, SectionMemory } from './kernel';
import { EASED_AT, EASING_STAGES, LANES, MAX_BLOCK, PARAMETERS, SECTION_STRIDE, STATES_AT, TARGETS_AT } from './layout';

/** The kernel in plain TypeScript: what the compiled one is tested against, operation by operation, and what stands in for it. */
export class ReferenceKernel implements Kernel {
  readonly name = 'reference';
  readonly left = new Float64Array(MAX_BLOCK);
  readonly right = new Float64Array(MAX_BLOCK);
  readonly floats = new Float32Array(LANES * MAX_BLOCK);
  private readonly lanes = [new Float64Array(MAX_BLOCK), new Float64Array(MAX_BLOCK)];

  allocate(sections: number): SectionMemory {
    return { numbers: new Float64Array(sections * SECTION_STRIDE) };
  }

  load(frames: number, mono: boolean): void {
    const [first, second] = this.lanes;
    const other = mono ? this.left : this.right;
    for (let n = 0; n < frames; n++) {
      first[n] = this.left[n];
      second[n] = other[n];
    }
  }

  store(frames: number, mono: boolean): void {
    const [first, second] = this.lanes;
    for (let n = 0; n < frames; n++) this.left[n] = first[n];
    if (!mono) for (let n = 0; n < frames; n++) this.right[n] = second[n];
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

  storeFloats(frames: number, mono: boolean): void {
    const step = mono ? 1 : LANES;
    for (let lane = 0; lane < step; lane++)
      for (let n = 0, at = lane; n < frames; n++, at += step) this.floats[at] = this.lanes[lane][n];
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

  ease({ numbers }: SectionMemory, index: number, frames: number, follow: number): void {
    for (let lane = 0; lane < LANES; lane++)
      this.easeLane(numbers, index * SECTION_STRIDE + lane, this.lanes[lane], frames, follow);
  }

  private easeLane(numbers: Float64Array, at: number, samples: Float64Array, frames: number, follow: number): void {
    const last = at + EASED_AT + (EASING_STAGES - 1) * PARAMETERS * LANES;
    let s1 = numbers[at + STATES_AT];
    let s2 = numbers[at + STATES_AT + LANES];
    for (let n = 0; n < frames; n++) {
      for (let p = 0; p < PARAMETERS * LANES; p += LANES) {
        let value = numbers[at + TARGETS_AT + p];
        for (let eased = at + EASED_AT + p; eased <= last + p; eased += PARAMETERS * LANES)
          value = numbers[eased] += follow * (value - numbers[eased]);
      }
      const g = numbers[last];
      const a1 = 1 / (1 + g * (g + numbers[last + LANES]));
      const x = samples[n];
      const v1 = a1 * (s1 + g * (x - s2));
      const step = g * v1;
      const v2 = s2 + step;
      samples[n] = numbers[last + 2 * LANES] * x + (numbers[last + 3 * LANES] * v1 + numbers[last + 4 * LANES] * v2);
      s1 = v1 + v1 - s1;
      s2 = v2 + step;
    }
    numbers[at + STATES_AT] = s1;
    numbers[at + STATES_AT + LANES] = s2;
  }
}
