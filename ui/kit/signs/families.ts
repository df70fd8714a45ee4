import { ORDERS } from '@/core/filters';
import { writeNumber } from '@/core/formats';
import { PASS_FAMILIES, type Band, type PassFamily } from '@/core/song';

/** The families of pass filters by what they do to the sound, with the textbook's name. */
const FAMILIES: Record<PassFamily, string> = {
  butterworth: 'Flat, then down (Butterworth)',
  bessel: 'Keeps transients (Bessel)',
  'chebyshev-1': 'Steeper, ripples inside (Chebyshev I)',
  'chebyshev-2': 'Steeper, ripples outside (Chebyshev II)',
  elliptic: 'Steepest, ripples both (elliptic)',
  'linkwitz-riley': 'Adds up flat (Linkwitz-Riley)',
  resonant: 'Lifts its corner (resonant)',
};

export const FAMILY_NAMES: readonly { id: PassFamily; name: string }[] = PASS_FAMILIES.map((id) => ({
  id,
  name: FAMILIES[id],
}));

/** What the corner of a family is. */
export function cornerMeaning({ family, rippleDb }: Pick<Band, 'family' | 'rippleDb'>): string {
  if (family === 'linkwitz-riley') return 'corner at −6 dB';
  if (family === 'chebyshev-1' || family === 'elliptic')
    return `edge at ${writeNumber(-rippleDb, rippleDb < 1 ? 2 : 1)} dB`;
  return family === 'resonant' ? 'resonance here' : 'corner at −3 dB';
}

export const hasRipple = (family: PassFamily) => family === 'chebyshev-1' || family === 'elliptic';
export const hasStopband = (family: PassFamily) => family === 'chebyshev-2' || family === 'elliptic';

/** How a slope is typed, with the range of the family. */
export function slopeExample(family: PassFamily): string {
  const { min, max, step } = ORDERS[family];
  return `18, or order 3: ${min * 6} to ${max * 6} dB/oct in steps of ${step * 6}`;
}
