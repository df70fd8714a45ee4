/** How fast a shown peak falls back. */
const FALL_DB_PER_SECOND = 20;

/** A peak meter: rises at once, falls by 20 dB per second, however often it is read. Allocates nothing. */
export class PeakMeter {
  value = 0;
  private readonly fallPerFrame: number;

  constructor(rateHz: number) {
    this.fallPerFrame = 10 ** (-FALL_DB_PER_SECOND / 20 / rateHz);
  }

  /** @param peak greatest absolute sample of a block, linear; @param frames length of the block */
  push(peak: number, frames: number): void {
    this.value = Math.max(peak, this.value * this.fallPerFrame ** frames);
  }
}
