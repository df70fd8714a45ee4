import { FLOOR_DB } from './spectrum';

/** Sample peak, mean power and crest factor of a recording, pushed in pieces. */
export class LevelMeter {
  private peak = 0;
  private energy = 0;
  private count = 0;

  /** @param samples one array per channel */
  push(samples: readonly ArrayLike<number>[]): void {
    for (const channel of samples) {
      let { peak, energy } = this;
      for (let n = 0; n < channel.length; n++) {
        const value = channel[n];
        const size = value < 0 ? -value : value;
        energy += value * value;
        if (size > peak) peak = size;
      }
      this.peak = peak;
      this.energy = energy;
      this.count += channel.length;
    }
  }

  /** Greatest absolute sample, dBFS; {@link FLOOR_DB} for silence. */
  get samplePeakDb(): number {
    return toDb(this.peak);
  }

  /** Root mean square over all channels, dB relative to full scale as amplitude 1; {@link FLOOR_DB} for silence. */
  get rmsDb(): number {
    return toDb(Math.sqrt(this.energy / Math.max(1, this.count)));
  }

  /** Peak over RMS, dB; 0 for silence. A sine has 3.01 dB. */
  get crestDb(): number {
    return this.samplePeakDb - this.rmsDb;
  }
}

/** An amplitude as dB, at least {@link FLOOR_DB}. */
export function toDb(amplitude: number): number {
  return Math.max(FLOOR_DB, 20 * Math.log10(amplitude));
}
