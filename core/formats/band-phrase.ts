import { GAIN_RANGE_DB, hasGain, hasQ, isHigh, isPassFilter, type BandType } from '../song/band';
import { parseFrequency, parseGain, parseSlope, parseWidth, possible } from './typed-values';

/** A band as a phrase. */
export interface BandPhrase {
  type: BandType;
  frequencyHz: number;
  gainDb?: number;
  q?: number;
  order?: number;
}

/** `shelf` alone is the one whose side of the spectrum the frequency lies on. */
type Kind = BandType | 'shelf';

const KINDS: Record<string, Kind> = {
  bell: 'bell',
  shelf: 'shelf',
  'low shelf': 'low-shelf',
  'high shelf': 'high-shelf',
  notch: 'notch',
  'high pass': 'high-pass',
  'low pass': 'low-pass',
  'cut lows': 'high-pass',
  'cut highs': 'low-pass',
  tilt: 'tilt',
  'band pass': 'band-pass',
  'all pass': 'all-pass',
  'twin shelf': 'twin-shelf',
  hp: 'high-pass',
  lp: 'low-pass',
  ls: 'low-shelf',
  hs: 'high-shelf',
  bp: 'band-pass',
  ap: 'all-pass',
};

/** The words of a phrase, each figure with its unit: `2.5 kHz -3 dB q 4` has three. */
function wordsOf(text: string): string[] {
  const joined = text
    .replace(/,\s+/g, ' ')
    .replace(/([\d.])\s+(k?hz|db(?:\s*\/\s*oct)?|oct|ct|c?m)(?=\s|$)/g, '$1$2')
    .replace(/(^|\s)q\s+/g, '$1q')
    // Cents belong to the note before them.
    .replace(/\s+([+-]\s*\d+ct)/g, '$1');
  return joined.split(/\s+/).filter(Boolean);
}

const isWidth = (word: string) => /^q|[\d.]oct$|[\d.]q$/.test(word);

/**
 * A band in words: a kind, a frequency, then a gain and a width if wanted: `bell 2.5k -3`, `high-pass 120`, `notch 50 Q 20`,
 * `low shelf A2 +2`, `shelf 9k 4`; of a pass filter the second number is its slope: `hp 120 18`.
 * @returns the band, with the nearest figures that are possible; what is missing or unreadable, in words; null for what does not begin with a kind of band
 */
export function parseBandPhrase(text: string): BandPhrase | { problem: string } | null {
  const plain = text
    .trim()
    .toLowerCase()
    .replace(/[−–]/g, '-')
    .replace(/([a-z])-([a-z])/g, '$1 $2');
  const name = Object.keys(KINDS).find((word) => plain === word || plain.startsWith(`${word} `));
  if (!name) return null;
  const [place, ...figures] = wordsOf(plain.slice(name.length));
  if (place === undefined) return { problem: `Where? Write a frequency or a note: ${name} 2.5k, ${name} A4.` };
  const frequencyHz = possible(parseFrequency(place));
  if (frequencyHz === null) return { problem: `“${place}” is no frequency. Write it like 2.5k, 440 Hz or A4.` };
  const kind = KINDS[name];
  const type: BandType = kind === 'shelf' ? (isHigh(frequencyHz) ? 'high-shelf' : 'low-shelf') : kind;
  const phrase: BandPhrase = { type, frequencyHz };
  for (const figure of figures) {
    const problem = isWidth(figure) ? takeWidth(phrase, figure) : takeStrength(phrase, figure);
    if (problem) return { problem };
  }
  return phrase;
}

/** @returns what is wrong with it */
function takeWidth(phrase: BandPhrase, figure: string): string | null {
  if (!hasQ(phrase.type) && !isPassFilter(phrase.type))
    return `This kind has no width: “${figure}” means nothing here.`;
  const q = possible(parseWidth(figure));
  if (q === null) return `“${figure}” is no width. Write it like 0.7 oct or Q 4.`;
  phrase.q = q;
  return null;
}

/** A gain, or the slope of a pass filter. @returns what is wrong with it */
function takeStrength(phrase: BandPhrase, figure: string): string | null {
  if (phrase.gainDb !== undefined || phrase.order !== undefined)
    return `“${figure}” is one figure too many. A width is written like 0.7 oct or Q 4.`;
  if (isPassFilter(phrase.type)) {
    const order = possible(parseSlope(figure, 'butterworth'));
    if (order === null) return `“${figure}” is no slope. Write it like 12, 18 or 24 dB/oct: 6 for each order.`;
    phrase.order = order;
    return null;
  }
  if (!hasGain(phrase.type))
    return `This kind has no gain: “${figure}” means nothing here. A width is written like Q 20.`;
  const gainDb = possible(parseGain(figure, GAIN_RANGE_DB));
  if (gainDb === null) return `“${figure}” is no gain. Write it like −3 or +2.5 dB.`;
  phrase.gainDb = gainDb;
  return null;
}
