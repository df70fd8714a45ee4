import {
  parseFigure,
  parseFrequency,
  parseGain,
  parsePan,
  processorName,
  writeFigure,
  writeFrequency,
  writeGain,
  writePan,
  type Typed,
} from '../formats';
import { findStrip, type Band, type ChainProcessor, type FigureRef, type PassageChange, type Settings } from '../song';
import { figureOf, partIn, type FigureScale } from './figures';

/** A value of a figure in words. */
export function writeValue(ref: FigureRef, figure: FigureScale & { label: string }, value: number): string {
  if (ref.field === 'pan') return writePan(value);
  if (figure.unit === 'Hz') return writeFrequency(value);
  if (figure.unit === 'dB' && ref.of !== 'processor') return writeGain(value);
  return writeFigure(value, figure);
}

/** Reads what {@link writeValue} writes; null for what cannot be read. */
export function parseValue(ref: FigureRef, figure: FigureScale & { label: string }, text: string): Typed {
  if (ref.field === 'pan') return parsePan(text);
  if (figure.unit === 'Hz') return parseFrequency(text);
  if (figure.unit === 'dB' && ref.of !== 'processor') return parseGain(text, figure);
  return parseFigure(text, figure);
}

const BAND_NAMES: Partial<Record<Band['type'], string>> = {
  'high-pass': 'high-pass',
  'low-pass': 'low-pass',
  notch: 'notch',
};

/** Whose figure it is: “Cello, band A (low-pass)”; null where it is gone. */
export function ownerOf(settings: Settings, ref: FigureRef): string | null {
  const strip = findStrip(settings, ref.stripId);
  const part = strip && partIn(strip, ref);
  if (!strip || !part) return null;
  const name = 'name' in strip ? strip.name : 'Master';
  if (ref.of === 'strip') return name;
  if (ref.of === 'send')
    return `${name}, send to ${settings.buses.find(({ id }) => id === ref.partId)?.name ?? 'a bus'}`;
  if (ref.of === 'processor') return `${name}, ${processorName(part as ChainProcessor).toLowerCase()}`;
  const { letter, type } = part as Band;
  return `${name}, band ${letter}${BAND_NAMES[type] ? ` (${BAND_NAMES[type]})` : ''}`;
}

const SWITCHED: Record<string, [on: string, off: string]> = {
  muted: ['muted', 'not muted'],
  polarityInverted: ['polarity turned', 'polarity as recorded'],
};

/** What a passage makes of a figure, in words without its owner: “frequency 200 Hz to 20 kHz”, “off”; null where it is gone. */
export function writeChange(settings: Settings, { figure: ref, value, points }: PassageChange): string | null {
  const figure = figureOf(settings, ref);
  if (!figure) return null;
  if (figure.kind === 'switch') {
    const [on, off] = SWITCHED[ref.field] ?? ['on', 'off'];
    return value ? on : off;
  }
  if (typeof value !== 'number') return null;
  if (points.length === 0) return `${figure.label} ${writeValue(ref, figure, value)}`;
  const ends = [points[0], points[points.length - 1]].map((point) => writeValue(ref, figure, point.value));
  return `${figure.label} ${ends[0]} to ${ends[1]}${points.length > 2 ? `, ${points.length} points` : ''}`;
}

/** All that a passage makes different, a line for each owner: “Cello, band A (low-pass): on, frequency 200 Hz to 20 kHz”. */
export function describeChanges(settings: Settings, changes: readonly PassageChange[]): string[] {
  const lines = new Map<string, string[]>();
  for (const change of changes) {
    const owner = ownerOf(settings, change.figure);
    const words = writeChange(settings, change);
    if (!owner || !words) continue;
    // What is switched comes first.
    const known = lines.get(owner) ?? [];
    lines.set(owner, typeof change.value === 'boolean' ? [words, ...known] : [...known, words]);
  }
  return [...lines].map(([owner, words]) => `${owner}: ${words.join(', ')}`);
}
