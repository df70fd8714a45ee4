import type { Band } from './schema';

export const BAND_TYPES = [
  'bell',
  'low-shelf',
  'high-shelf',
  'tilt',
  'notch',
  'band-pass',
  'all-pass',
  'high-pass',
  'low-pass',
  'twin-shelf',
] as const;
export const PASS_FAMILIES = [
  'butterworth',
  'bessel',
  'chebyshev-1',
  'chebyshev-2',
  'elliptic',
  'linkwitz-riley',
  'resonant',
] as const;
export const BAND_CHANNELS = ['stereo', 'mid', 'side', 'left', 'right'] as const;

export type BandType = (typeof BAND_TYPES)[number];
export type PassFamily = (typeof PASS_FAMILIES)[number];
export type BandChannel = (typeof BAND_CHANNELS)[number];

export const FREQUENCY_RANGE_HZ = { min: 10, max: 30000 } as const;
export const GAIN_RANGE_DB = { min: -36, max: 36 } as const;
/** Boost and cut of a twin shelf, each a size. */
export const TWIN_RANGE_DB = { min: 0, max: 18 } as const;
export const Q_RANGE = { min: 0.1, max: 100 } as const;

/** What decides the sound of a band. */
export type BandSettings = Omit<Band, 'id' | 'letter'>;

/** What a field is where nothing is said. */
export const BAND_DEFAULTS: Omit<BandSettings, 'type' | 'frequencyHz'> = {
  gainDb: 0,
  q: 0.7071,
  family: 'butterworth',
  order: 2,
  rippleDb: 1,
  stopbandDb: 40,
  boostDb: 0,
  cutDb: 0,
  end: 'low',
  channel: 'stereo',
  enabled: true,
  limits: null,
  note: '',
  givesWay: null,
};

/** About the middle of what is heard, on a logarithmic axis, Hz. */
const MIDDLE_HZ = 700;

/** True for a frequency in the upper half of what is heard. */
export const isHigh = (frequencyHz: number) => frequencyHz > MIDDLE_HZ;

/** The settings that a new band of a type starts with: a bell about an octave and a half wide, a notch narrow. */
export function newBandSettings(type: BandType, atHz: number): BandSettings {
  const q = { bell: 1, notch: 8 }[type as string] ?? BAND_DEFAULTS.q;
  const end = isHigh(atHz) ? 'high' : 'low';
  return { ...BAND_DEFAULTS, type, frequencyHz: atHz, q, ...(type === 'twin-shelf' && { end }) };
}

/** Types that may give way: one section, whose gain moves. */
export const canGiveWay = (type: BandType) => type === 'bell' || type === 'low-shelf' || type === 'high-shelf';

/** True where a band moves with a level. */
export const givesWay = <B extends Pick<BandSettings, 'type' | 'givesWay'>>(
  band: B,
): band is B & { givesWay: NonNullable<B['givesWay']> } => band.givesWay !== null && canGiveWay(band.type);

export const isPassFilter = (type: BandType) => type === 'high-pass' || type === 'low-pass';
/** True for a band that shuts off an end of its track: a pass filter that is on and acts on everything. */
export const isEnd = (band: Pick<BandSettings, 'type' | 'enabled' | 'channel'>) =>
  isPassFilter(band.type) && band.enabled && band.channel === 'stereo';
/** Types whose curve has a height that `gainDb` sets. */
export const hasGain = (type: BandType) =>
  type === 'bell' || type === 'low-shelf' || type === 'high-shelf' || type === 'tilt';
/** Types whose width `q` sets. */
export const hasQ = (type: BandType) =>
  type === 'bell' ||
  type === 'low-shelf' ||
  type === 'high-shelf' ||
  type === 'notch' ||
  type === 'band-pass' ||
  type === 'all-pass';

/** The letters A … Z, then AA, AB …: the first that no band of the equalizer holds. */
export function freeLetter(taken: readonly string[]): string {
  for (let i = 0; ; i++) {
    const letter = (i < 26 ? '' : String.fromCharCode(64 + Math.floor(i / 26))) + String.fromCharCode(65 + (i % 26));
    if (!taken.includes(letter)) return letter;
  }
}

/** A frequency moved into the band's limits, where it has any. */
export function withinLimits(band: Pick<Band, 'limits'>, wantedHz: number): number {
  const { minHz, maxHz } = band.limits ?? { minHz: FREQUENCY_RANGE_HZ.min, maxHz: FREQUENCY_RANGE_HZ.max };
  return Math.min(maxHz, Math.max(minHz, wantedHz));
}
