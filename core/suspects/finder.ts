import { BurstFinder } from './bursts';
import { FineSpectrum } from './fine-spectrum';
import { HumFinder } from './hum';
import { steadyNoise } from './steady-noise';
import type { Suspect } from './suspect';
import { bodyResonance, steadyTones } from './tones';

export const SUSPECTS_VERSION = 1;

/** Looks through a recording that is pushed in pieces for what may be wrong with it. */
export class SuspectFinder {
  private readonly fine: FineSpectrum;
  private readonly hum: HumFinder;
  private readonly bursts: BurstFinder;

  /** @param rateHz sample rate */
  constructor(rateHz: number) {
    this.fine = new FineSpectrum(rateHz);
    this.hum = new HumFinder(rateHz);
    this.bursts = new BurstFinder(rateHz);
  }

  /** @param samples one array per channel, equal lengths, one or two of them */
  push(samples: readonly ArrayLike<number>[]): void {
    this.fine.push(samples);
    this.hum.push(samples);
    this.bursts.push(samples);
  }

  /** @returns the surest first */
  finish(): Suspect[] {
    const hum = this.hum.finish();
    const isHum = ({ frequencyHz }: Suspect) =>
      hum.some((series) => {
        const number = Math.round(frequencyHz / series.frequencyHz);
        return number <= 12 && Math.abs(frequencyHz / series.frequencyHz - number) < 0.12;
      });
    return [
      ...hum,
      ...steadyTones(this.fine).filter((tone) => !isHum(tone)),
      ...bodyResonance(this.fine),
      ...steadyNoise(this.fine),
      ...this.bursts.finish(),
    ].sort((a, b) => b.sureness - a.sureness);
  }
}
