import type { StripListener } from '@/core/engine';
import { SoundMeter, TruePeakMeter, type SoundFigures } from '@/core/measure';

/** What is measured of strips: all figures of their sound, or the true peak alone, dBTP. */
export interface StripFigures {
  sound: SoundFigures;
  peak: number;
}
export type Measured = keyof StripFigures;

const METERS = { sound: (rateHz: number) => new SoundMeter(rateHz, 2), peak: () => new TruePeakMeter(2) };

/** Strips to be measured, for one thread or another. */
export interface HeardStrips {
  stripIds: readonly string[];
  measured: Measured;
}

/** Measures strips that are heard in a render. */
export class StripMeters implements StripListener {
  readonly stripIds: ReadonlySet<string>;
  private readonly meters = new Map<string, SoundMeter | TruePeakMeter>();

  constructor(
    private readonly heard: HeardStrips,
    private readonly rateHz: number,
  ) {
    this.stripIds = new Set(heard.stripIds);
  }

  hear(stripId: string, left: Float64Array, right: Float64Array): void {
    let meter = this.meters.get(stripId);
    if (!meter) this.meters.set(stripId, (meter = METERS[this.heard.measured](this.rateHz)));
    meter.push([left, right]);
  }

  /** The figures of those that were heard; they hear nothing afterwards. */
  finish<K extends Measured>(): Record<string, StripFigures[K]> {
    return Object.fromEntries([...this.meters].map(([id, meter]) => [id, meter.finish()])) as Record<
      string,
      StripFigures[K]
    >;
  }
}
