/** What rings on has died away when it is so far below the loudest just before the end. Source: reverberation time, ISO 3382-1. */
const DIED_AWAY_DB = 60;
/** Nothing below this is waited for. */
const SILENCE_DBFS = -110;
/** Levels are taken over so long. */
const STEP_SECONDS = 0.05;
/** The loudest is looked for in so much before the end. */
export const BEFORE_END_SECONDS = 2;

/** Finds how long a sound rings on after its end: it is pushed from {@link BEFORE_END_SECONDS} before the end on. */
export class TailFinder {
  private readonly perStep: number;
  private sum = 0;
  private inStep = 0;
  private at: number;
  private loudest = 0;
  private heardUntil = 0;

  /** @param beforeFrames frames that are pushed before the end */
  constructor(rateHz: number, beforeFrames: number) {
    this.perStep = Math.round(rateHz * STEP_SECONDS);
    this.at = -beforeFrames;
  }

  push(left: ArrayLike<number>, right: ArrayLike<number>, frames: number): void {
    for (let n = 0; n < frames; n++) {
      this.sum += left[n] * left[n] + right[n] * right[n];
      this.at++;
      if (++this.inStep === this.perStep) this.endStep();
    }
  }

  private endStep(): void {
    const power = this.sum / this.perStep;
    if (this.at <= 0) this.loudest = Math.max(this.loudest, power);
    else if (power > Math.max(this.loudest * 10 ** (-DIED_AWAY_DB / 10), 10 ** (SILENCE_DBFS / 10)))
      this.heardUntil = this.at;
    this.sum = this.inStep = 0;
  }

  /** Frames after the end until it has died away. */
  get frames(): number {
    return this.heardUntil;
  }
}
