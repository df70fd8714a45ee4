import { BurstFinder } from './bursts';
import { ClickFinder } from './clicks';
import { FineSpectrum } from './fine-spectrum';
import { HumFinder } from './hum';
import { ResonanceFinder } from './resonance';
import { steadyNoise } from './steady-noise';
import type { Suspect } from './suspect';
import { steadyTones } from './tones';
import { whistles } from './whistles';

/** How much less sure pops are where modes of a room are found. */
const POPS_IN_A_ROOM = 0.4;
/** Two findings so near to each other are one. */
const SAME_OCTAVES = 0.05;

/** Looks through a recording that is pushed in pieces for what may be wrong with it. */
export class SuspectFinder {
  private readonly fine: FineSpectrum;
  private readonly hum: HumFinder;
  private readonly bursts: BurstFinder;
  private readonly clicks: ClickFinder;
  private readonly resonances: ResonanceFinder | null;

  /**
   * @param lengthFrames of the whole recording; 0 where that is not known: then its beginning is looked at for resonances
   * @param withResonances false where only all else is asked for, which takes a fifth of the time
   */
  constructor(rateHz: number, lengthFrames: number, withResonances = true) {
    this.fine = new FineSpectrum(rateHz, lengthFrames);
    this.hum = new HumFinder(rateHz, lengthFrames);
    this.bursts = new BurstFinder(rateHz);
    this.clicks = new ClickFinder(rateHz);
    this.resonances = withResonances ? new ResonanceFinder(rateHz, lengthFrames) : null;
  }

  /** @param samples one array per channel, equal lengths, one or two of them */
  push(samples: readonly ArrayLike<number>[]): void {
    this.fine.push(samples);
    this.hum.push(samples);
    this.bursts.push(samples);
    this.clicks.push(samples);
    this.resonances?.push(samples);
  }

  /** @returns the surest first */
  finish(): Suspect[] {
    this.fine.finish();
    const hum = this.hum.finish();
    const isHum = (frequencyHz: number) =>
      hum.some((series) => {
        const number = Math.round(frequencyHz / series.frequencyHz);
        return number <= 12 && Math.abs(frequencyHz / series.frequencyHz - number) < 0.12;
      });
    const noise = steadyNoise(this.fine, isHum);
    const isNoise = (hz: number) => noise.some(({ lowHz, highHz }) => hz >= lowHz && hz <= highHz);
    const { found: tones, changes } = steadyTones(this.fine, isHum, isNoise);
    // A tone that stays is a resonance too: it is named once.
    const isTone = ({ frequencyHz }: Pick<Suspect, 'frequencyHz'>) =>
      tones.some((tone) => Math.abs(Math.log2(frequencyHz / tone.frequencyHz)) < SAME_OCTAVES);
    const resonances = this.resonances?.finish((place) => isTone(place) || isHum(place.frequencyHz)) ?? [];
    const moving = whistles(this.fine, changes).filter((suspect) => !isTone(suspect));
    // What thumps in a room with modes is rather the room than a pop.
    const isBooming = resonances.some(({ kind }) => kind === 'modes');
    const bursts = this.bursts.finish().map((suspect) => ({
      ...suspect,
      sureness: isBooming && suspect.kind === 'pops' ? POPS_IN_A_ROOM * suspect.sureness : suspect.sureness,
    }));
    const others = [...hum, ...tones, ...moving, ...noise, ...bursts, ...this.clicks.finish()];
    return [
      ...resonances,
      ...others.map((suspect): Suspect => ({ ...suspect, picture: this.fine.picture(suspect.lowHz, suspect.highHz) })),
    ].sort((a, b) => b.sureness - a.sureness);
  }
}
