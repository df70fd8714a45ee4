import type { Range } from '../song';

const EASE_MS = 6;
/** 1/Q of a Butterworth filter of the second order. */
const DAMPING = Math.SQRT2;

const isSame = (first: number | null, second: number | null) => (first === null) === (second === null);

/** One end of a range: a high- or low-pass at 12 dB an octave, whose corner moves without a step. */
class End {
  private goal = 0;
  private g = 0;
  private readonly memory = new Float64Array(4);

  constructor(
    private readonly isLow: boolean,
    private readonly rateHz: number,
    private readonly follow: number,
  ) {}

  set(hz: number, immediately: boolean): void {
    this.goal = Math.tan(Math.PI * Math.min(0.45, hz / this.rateHz));
    if (immediately) this.g = this.goal;
  }

  next(side: number, input: number): number {
    const { memory } = this;
    if (side === 0) this.g += this.follow * (this.goal - this.g);
    const { g } = this;
    const band = (memory[2 * side] + g * (input - memory[2 * side + 1])) / (1 + g * (g + DAMPING));
    const low = memory[2 * side + 1] + g * band;
    memory[2 * side] = 2 * band - memory[2 * side];
    memory[2 * side + 1] = 2 * low - memory[2 * side + 1];
    return this.isLow ? input - DAMPING * band - low : low;
  }

  reset(): void {
    this.memory.fill(0);
  }
}

/** Both ends of a range, sample by sample: what returns of an echo, what is heard of a reverb. */
export class RangeFilter {
  private readonly low: End | null;
  private readonly high: End | null;

  constructor(
    private readonly range: Range,
    rateHz: number,
  ) {
    const follow = 1 - Math.exp(-1000 / (EASE_MS * rateHz));
    this.low = range.lowHz === null ? null : new End(true, rateHz, follow);
    this.high = range.highHz === null ? null : new End(false, rateHz, follow);
    this.set(range, true);
  }

  /** An end that comes or goes is no move. */
  canBecome({ lowHz, highHz }: Range): boolean {
    return isSame(lowHz, this.range.lowHz) && isSame(highHz, this.range.highHz);
  }

  set({ lowHz, highHz }: Range, immediately: boolean): void {
    if (lowHz !== null) this.low?.set(lowHz, immediately);
    if (highHz !== null) this.high?.set(highHz, immediately);
  }

  /** @param side 0 or 1; side 0 comes first */
  next(side: number, input: number): number {
    const above = this.low ? this.low.next(side, input) : input;
    return this.high ? this.high.next(side, above) : above;
  }

  reset(): void {
    this.low?.reset();
    this.high?.reset();
  }
}
