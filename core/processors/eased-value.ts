/**
 * A gain that moves without a step: three equal one-pole low-passes in a row, as the filter coefficients are eased.
 * `fill` writes one value per sample and allocates nothing.
 */
const EASE_SECONDS = 0.006;
const SETTLED = 1e-9;

export class EasedValue {
  private first: number;
  private second: number;
  private third: number;
  private readonly follow: number;

  constructor(
    private target: number,
    rateHz: number,
  ) {
    this.first = this.second = this.third = target;
    this.follow = 1 - Math.exp(-1 / (EASE_SECONDS * rateHz));
  }

  set(target: number, immediately = false): void {
    this.target = target;
    if (immediately) this.first = this.second = this.third = target;
  }

  /** True when the value is at its target and stays there. */
  get isSettled(): boolean {
    return this.third === this.target && this.second === this.target && this.first === this.target;
  }

  get value(): number {
    return this.third;
  }

  /** The value of the next `frames` samples, linear. */
  fill(out: Float64Array, frames: number): void {
    const { target, follow } = this;
    if (this.isSettled) {
      out.fill(target, 0, frames);
      return;
    }
    let { first, second, third } = this;
    for (let n = 0; n < frames; n++) {
      first += follow * (target - first);
      second += follow * (first - second);
      third += follow * (second - third);
      out[n] = third;
    }
    const isThere = Math.max(Math.abs(first - target), Math.abs(second - target), Math.abs(third - target)) < SETTLED;
    this.first = isThere ? target : first;
    this.second = isThere ? target : second;
    this.third = isThere ? target : third;
  }
}
