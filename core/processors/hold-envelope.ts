import { fromDb, framesOf, keptPerFrame, SlidingMaximum } from './levels';

/** Peaks are looked at over so long. */
const WINDOW_MS = 1;

/** When a key counts as sounding, and how fast what follows it moves. */
export interface HoldTimes {
  thresholdDb: number;
  hysteresisDb: number;
  holdMs: number;
}

/**
 * Whether a key is above a threshold: from the moment at which its peak of the last millisecond passes it until that has stayed below it by
 * the hysteresis for the hold.
 */
export class HoldDetector {
  private readonly window: SlidingMaximum;
  private opens = 0;
  private shuts = 0;
  private holdFrames = 0;
  private held = 0;
  isOpen = false;

  constructor(private readonly rateHz: number) {
    this.window = new SlidingMaximum(Math.max(1, framesOf(WINDOW_MS, rateHz)));
  }

  set({ thresholdDb, hysteresisDb, holdMs }: HoldTimes): void {
    this.opens = fromDb(thresholdDb);
    this.shuts = fromDb(thresholdDb - hysteresisDb);
    // What the window still sees is held already.
    this.holdFrames = Math.max(0, framesOf(holdMs, this.rateHz) - this.window.frames);
  }

  /** @param size of the key, linear, ≥ 0 */
  push(size: number): boolean {
    const peak = this.window.push(size);
    if (peak >= this.opens) this.isOpen = true;
    if (this.isOpen) {
      if (peak >= this.shuts) this.held = this.holdFrames;
      else if (this.held > 0) this.held--;
      else this.isOpen = false;
    }
    return this.isOpen;
  }

  reset(): void {
    this.window.reset();
    this.isOpen = false;
    this.held = 0;
  }
}

/** A gain in dB that goes to its goal by exponentials, one way as fast as an attack, the other as a release. */
export class EnvelopeDb {
  value = 0;
  private keptUp = 0;
  private keptDown = 0;

  constructor(private readonly rateHz: number) {}

  /** @param upMs towards greater values */
  setTimes(upMs: number, downMs: number): void {
    this.keptUp = keptPerFrame(upMs, this.rateHz);
    this.keptDown = keptPerFrame(downMs, this.rateHz);
  }

  next(goal: number): number {
    const distance = this.value - goal;
    if (distance === 0) return goal;
    const kept = distance < 0 ? this.keptUp : this.keptDown;
    const left = distance * kept;
    this.value = left < 1e-9 && left > -1e-9 ? goal : goal + left;
    return this.value;
  }
}
