import { BAND_TYPES, type BandType } from '@/core/song';

/** What the kinds of band are called; both names where the trade has two. */
const NAMES: Record<BandType, { short: string; long: string }> = {
  bell: { short: 'Bell', long: 'Bell' },
  'low-shelf': { short: 'Low shelf', long: 'Low shelf' },
  'high-shelf': { short: 'High shelf', long: 'High shelf' },
  tilt: { short: 'Tilt', long: 'Tilt' },
  notch: { short: 'Notch', long: 'Notch' },
  'band-pass': { short: 'Band-pass', long: 'Band-pass' },
  'all-pass': { short: 'All-pass', long: 'All-pass' },
  'high-pass': { short: 'High-pass', long: 'High-pass (cuts lows)' },
  'low-pass': { short: 'Low-pass', long: 'Low-pass (cuts highs)' },
  'twin-shelf': { short: 'Twin shelf', long: 'Twin shelf' },
};

export const typeName = (type: BandType) => NAMES[type].short;

/** The kinds that can be chosen, with their long names. */
export const TYPE_NAMES: readonly { id: BandType; name: string }[] = BAND_TYPES.map((id) => ({
  id,
  name: NAMES[id].long,
}));
