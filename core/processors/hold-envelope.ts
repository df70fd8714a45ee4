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

  /** In place: sizes of the key, linear, become 1 where it counts as sounding, 0 where it does not. */
  run(sizes: Float64Array, frames: number): void {
    this.window.run(sizes, frames);
    const { opens, shuts, holdFrames } = this;
    let { isOpen, held } = this;
    for (let n = 0; n < frames; n++) {
      const peak = sizes[n];
      if (peak >= opens) isOpen = true;
      if (isOpen) {
        if (peak >= shuts) held = holdFrames;
        else if (held > 0) held--;
        else isOpen = false;
      }
      sizes[n] = isOpen ? 1 : 0;
    }
    this.isOpen = isOpen;
    this.held = held;
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

  /** In place: goals become what it has come to on its way to each. */
  run(goals: Float64Array, frames: number): void {
    const { keptUp, keptDown } = this;
    let { value } = this;
    for (let n = 0; n < frames; n++) {
      const goal = goals[n];
      const distance = value - goal;
      if (distance !== 0) {
        const left = distance * (distance < 0 ? keptUp : keptDown);
        value = left < 1e-9 && left > -1e-9 ? goal : goal + left;
      }
      goals[n] = value;
    }
    this.value = value;
  }
}

/** Levels become gains, in place; one that stays is worked out once. */
export function gainsFromDb(levelsDb: Float64Array, frames: number): void {
  let known = NaN;
  let gain = 1;
  for (let n = 0; n < frames; n++) {
    if (levelsDb[n] !== known) {
      known = levelsDb[n];
      gain = fromDb(known);
    }
    levelsDb[n] = gain;
  }
}
