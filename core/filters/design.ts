import type { BandChannel, BandSettings, PassFamily } from '../song/band';
import type { AnalogSection } from './analog';
import { bell } from './bell';
import { besselLowPass } from './bessel';
import { butterworthLowPass, linkwitzRileyLowPass, resonantLowPass } from './butterworth';
import { chebyshev1LowPass, chebyshev2LowPass } from './chebyshev';
import { ellipticLowPass } from './elliptic';
import { matchSections } from './match';
import { allPass, bandPass, notch } from './notch';
import { highPassOf } from './roots';
import type { Section } from './section';
import { highShelf, lowShelf } from './shelf';
import { tilt } from './tilt';
import { twinShelf } from './twin-shelf';

/** Orders of the families of pass filters. */
export const ORDERS: Record<PassFamily, { min: number; max: number; step: 1 | 2 }> = {
  butterworth: { min: 1, max: 16, step: 1 },
  bessel: { min: 1, max: 16, step: 1 },
  'chebyshev-1': { min: 1, max: 16, step: 1 },
  'chebyshev-2': { min: 1, max: 16, step: 1 },
  elliptic: { min: 1, max: 16, step: 1 },
  'linkwitz-riley': { min: 2, max: 16, step: 2 },
  resonant: { min: 2, max: 8, step: 1 },
};

/** The order of a family that is nearest to a wanted one. */
export function legalOrder(family: PassFamily, wanted: number): number {
  const { min, max, step } = ORDERS[family];
  return Math.min(max, Math.max(min, min + step * Math.round((wanted - min) / step)));
}

/** The analog low-pass of a family, with the band's order, ripple, stopband and Q as far as they mean something for it. */
function lowPassOf({ family, order, rippleDb, stopbandDb, q }: BandSettings): AnalogSection[] {
  const legal = legalOrder(family, order);
  switch (family) {
    case 'butterworth':
      return butterworthLowPass(legal);
    case 'bessel':
      return besselLowPass(legal);
    case 'chebyshev-1':
      return chebyshev1LowPass(legal, rippleDb);
    case 'chebyshev-2':
      return chebyshev2LowPass(legal, stopbandDb);
    case 'elliptic':
      return ellipticLowPass(legal, rippleDb, stopbandDb);
    case 'linkwitz-riley':
      return linkwitzRileyLowPass(legal);
    case 'resonant':
      return resonantLowPass(legal, q);
  }
}

/** The analog prototype of a band, normalised to its frequency: what the digital response follows. */
export function prototype(band: BandSettings): AnalogSection[] {
  switch (band.type) {
    case 'bell':
      return bell(band.gainDb, band.q);
    case 'low-shelf':
      return lowShelf(band.gainDb, band.q);
    case 'high-shelf':
      return highShelf(band.gainDb, band.q);
    case 'tilt':
      return tilt(band.gainDb);
    case 'notch':
      return notch(band.q);
    case 'band-pass':
      return bandPass(band.q);
    case 'all-pass':
      return allPass(band.q);
    case 'twin-shelf':
      return twinShelf(band.boostDb, band.cutDb, band.end, band.frequencyHz);
    case 'high-pass':
      return highPassOf(lowPassOf(band));
    case 'low-pass':
      return lowPassOf(band);
  }
}

const designed = new WeakMap<BandSettings, { rateHz: number; sections: Section[] }>();

/**
 * The digital sections of one band at a sample rate; none when it is off. Bands never change in place, so one that was designed
 * before is not designed again.
 */
export function designBand(band: BandSettings, rateHz: number): Section[] {
  if (!band.enabled) return [];
  const known = designed.get(band);
  if (known?.rateHz === rateHz) return known.sections;
  const sections = matchSections(prototype(band), band.frequencyHz, rateHz);
  designed.set(band, { rateHz, sections });
  return sections;
}

/** An equalizer as far as its sound goes. */
export interface EqualizerSettings {
  bands: readonly BandSettings[];
  outputGainDb: number;
}

/** A gain as a section: multiplies the samples by 10^(gainDb/20). */
export function gainSection(gainDb: number): Section {
  return { b0: 10 ** (gainDb / 20), b1: 0, b2: 0, a1: 0, a2: 0 };
}

/** True when a band acts on a signal that lies on a channel alone; on `stereo`, when it acts on everything. */
export const actsOnPath = (band: Pick<BandSettings, 'channel'>, path: BandChannel) =>
  band.channel === 'stereo' || band.channel === path;

/**
 * The sections that a signal on a channel passes, in the order in which they run; on `stereo`, those of the bands that act on
 * everything. The output gain is part of the first of them, or a section of its own when there is no other.
 */
export function designEqualizer(equalizer: EqualizerSettings, rateHz: number, path: BandChannel = 'stereo'): Section[] {
  const sections = equalizer.bands.filter((band) => actsOnPath(band, path)).flatMap((band) => designBand(band, rateHz));
  const gain = 10 ** (equalizer.outputGainDb / 20);
  if (gain === 1) return sections;
  if (sections.length === 0) return [gainSection(equalizer.outputGainDb)];
  const [first, ...rest] = sections;
  return [{ ...first, b0: first.b0 * gain, b1: first.b1 * gain, b2: first.b2 * gain }, ...rest];
}
