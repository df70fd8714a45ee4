import { OrvidError } from '../errors';
import type { BandSettings, BandType } from '../song/band';
import type { AnalogSection } from './analog';
import { bell } from './bell';
import { butterworthHighPass, butterworthLowPass } from './butterworth';
import { matchSection } from './match';
import { notch } from './notch';
import type { Section } from './section';
import { highShelf, lowShelf } from './shelf';

/** The highest order of a pass filter that runs today. */
export const HIGHEST_ORDER = 8;
/** A band runs no nearer to half the sample rate than this share of the rate. */
export const HIGHEST_SHARE_OF_RATE = 0.495;

/** The types of band that run today, in the order in which they are offered. */
export const AVAILABLE_TYPES: readonly BandType[] = [
  'bell',
  'low-shelf',
  'high-shelf',
  'notch',
  'high-pass',
  'low-pass',
];

/**
 * Why a band cannot run yet, as a sentence; null when it can.
 * The equalizer file allows more than the filters of today; what is not there is refused, never approximated.
 */
export function whyUnavailable(band: Pick<BandSettings, 'type' | 'family' | 'order' | 'channel'>): string | null {
  const isPass = band.type === 'high-pass' || band.type === 'low-pass';
  if (!AVAILABLE_TYPES.includes(band.type)) return `bands of type "${band.type}" are not available yet`;
  if (isPass && band.family !== 'butterworth')
    return `the family "${band.family}" is not available yet; use "butterworth"`;
  if (isPass && band.order > HIGHEST_ORDER)
    return `order ${band.order} is not available yet; orders 1 to ${HIGHEST_ORDER} are`;
  if (band.channel !== 'stereo') return `acting on "${band.channel}" alone is not available yet; use "stereo"`;
  return null;
}

/**
 * The analog prototype of a band, normalised to its frequency: what the digital response follows.
 * @throws OrvidError `not-available-yet` for what does not run yet
 */
export function prototype(band: BandSettings): AnalogSection[] {
  const refusal = whyUnavailable(band);
  if (refusal) throw new OrvidError('not-available-yet', refusal);
  switch (band.type) {
    case 'bell':
      return bell(band.gainDb, band.q);
    case 'low-shelf':
      return lowShelf(band.gainDb, band.q);
    case 'high-shelf':
      return highShelf(band.gainDb, band.q);
    case 'notch':
      return notch(band.q);
    case 'high-pass':
      return butterworthHighPass(band.order);
    default:
      return butterworthLowPass(band.order);
  }
}

/** The frequency at which a band runs: its own, or the highest that the rate allows. Hz */
export function runningFrequencyHz(frequencyHz: number, rateHz: number): number {
  return Math.min(frequencyHz, rateHz * HIGHEST_SHARE_OF_RATE);
}

/**
 * The digital sections of one band at a sample rate; none when it is off.
 * @throws OrvidError `not-available-yet`
 */
export function designBand(band: BandSettings, rateHz: number): Section[] {
  if (!band.enabled) return [];
  const frequencyHz = runningFrequencyHz(band.frequencyHz, rateHz);
  return prototype(band).map((section) => matchSection(section, frequencyHz, rateHz));
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

/**
 * All sections of an equalizer in the order in which they run. The output gain is part of the first of them,
 * or a section of its own when there is no other.
 * @throws OrvidError `not-available-yet`
 */
export function designEqualizer(equalizer: EqualizerSettings, rateHz: number): Section[] {
  const sections = equalizer.bands.flatMap((band) => designBand(band, rateHz));
  const gain = 10 ** (equalizer.outputGainDb / 20);
  if (gain === 1) return sections;
  if (sections.length === 0) return [gainSection(equalizer.outputGainDb)];
  const [first, ...rest] = sections;
  return [{ ...first, b0: first.b0 * gain, b1: first.b1 * gain, b2: first.b2 * gain }, ...rest];
}
