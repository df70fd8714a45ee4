import { FIGURES, OWN_KEY, type ChainProcessor, type Figure, type Key, type ProcessorKind, type Range } from '../song';
import { parseFrequency, possible, within, writeFrequency, writeNumber, type Typed } from './typed-values';

/** What each processor is called, and what it does. */
export const PROCESSOR_WORDS: Record<ChainProcessor['kind'], { name: string; what: string }> = {
  equalizer: { name: 'Equalizer', what: 'shapes ranges of frequency' },
  gate: { name: 'Gate', what: 'shuts off what is softer than a threshold' },
  compressor: { name: 'Compressor', what: 'holds back what is louder than a threshold' },
  clipper: { name: 'Clipper', what: 'bends peaks, so that more fits below them' },
  ducker: { name: 'Ducker', what: 'gives way while another strip sounds' },
  reverb: { name: 'Reverb', what: 'a room' },
  echo: { name: 'Echo', what: 'repeats' },
  limiter: { name: 'Limiter', what: 'lets no peak through above a ceiling' },
};

/** The name of a processor: its own, or that of its kind. */
export const processorName = ({ kind, name }: Pick<ChainProcessor, 'kind' | 'name'>) =>
  name || PROCESSOR_WORDS[kind].name;

/** Digits behind the point that a value of a figure is told apart by. */
function digitsOf(value: number, { unit, scale }: Pick<Figure, 'unit' | 'scale'>): number {
  if (unit === 'dB') return 1;
  if (unit === '') return 2;
  if (scale === 'linear') return Math.abs(value) < 10 && !Number.isInteger(value) ? 1 : 0;
  return value < 1 ? 2 : value < 100 ? 1 : 0;
}

/** A figure with its unit: `−18.0 dB`, `0.50 ms`, `3.0 : 1`. */
export function writeFigure(value: number, figure: Omit<Figure, 'start'>): string {
  if (figure.unit === 'Hz') return writeFrequency(value);
  return `${writeNumber(value, digitsOf(value, figure))}${figure.unit && ` ${figure.unit}`}`;
}

/** What was typed into a figure, with or without its unit; seconds and milliseconds both. @returns within its range; null for what cannot be read */
export function parseFigure(text: string, figure: Omit<Figure, 'start'>): Typed {
  if (figure.unit === 'Hz') {
    const hz = possible(parseFrequency(text));
    return hz === null ? null : within(hz, figure);
  }
  const match = /^([+\-−–]?\s*(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(db|ms|s|%|×|x|:\s*1)?$/i.exec(text.trim());
  if (!match) return null;
  const number = Number(match[1].replace(/[−–]/, '-').replace(',', '.').replace(/\s/g, ''));
  const unit = match[2]?.toLowerCase();
  const own = figure.unit.toLowerCase();
  if (unit === 's' && own === 'ms') return within(number * 1000, figure);
  if (unit === 'ms' && own === 's') return within(number / 1000, figure);
  const isOwn = !unit || unit.replace(/\s/g, '') === own.replace(/\s/g, '') || (unit === 'x' && own === '×');
  return isOwn ? within(number, figure) : null;
}

/** `120 Hz to 4.00 kHz`, `above 120 Hz`, `the whole range`. */
export function writeRange({ lowHz, highHz }: Range): string {
  if (lowHz !== null && highHz !== null) return `${writeFrequency(lowHz)} to ${writeFrequency(highHz)}`;
  if (lowHz !== null) return `above ${writeFrequency(lowHz)}`;
  return highHz === null ? 'the whole range' : `below ${writeFrequency(highHz)}`;
}

/** What a key is: `Stomp, below 120 Hz`. */
export function writeKey(key: Key, nameOf: (stripId: string) => string): string {
  const strip = key.stripId === OWN_KEY ? 'itself' : nameOf(key.stripId);
  return key.lowHz === null && key.highHz === null ? strip : `${strip}, ${writeRange(key)}`;
}

/** Everything that is set of a processor that is no equalizer, in words, by its field. */
export function processorFields(
  processor: Exclude<ChainProcessor, { kind: 'equalizer' }>,
  nameOf: (stripId: string) => string,
): [label: string, text: string][] {
  const figures: Record<string, Figure> = FIGURES[processor.kind];
  const values = processor as unknown as Record<string, number>;
  const lines = Object.entries(figures).map(([field, figure]): [string, string] => [
    figure.label.toLowerCase(),
    field === 'ratio' && 'limits' in processor && processor.limits ? 'limit' : writeFigure(values[field], figure),
  ]);
  if ('detector' in processor) lines.push(['detector', processor.detector]);
  if ('crossing' in processor) lines.push(['sides', processor.crossing ? 'changing' : 'kept']);
  if ('dry' in processor) lines.push(['the sound itself', processor.dry ? 'heard' : 'not heard']);
  if ('range' in processor) lines.push(['range', writeRange(processor.range)]);
  if ('key' in processor) lines.push(['key', writeKey(processor.key, nameOf)]);
  return lines;
}

/** What a processor does in its first figures: `threshold −18.0 dB, ratio 3.0 : 1`. */
export function processorSummary(processor: Exclude<ChainProcessor, { kind: 'equalizer' }>): string {
  const first: Record<ProcessorKind, number> = {
    gate: 1,
    compressor: 2,
    clipper: 2,
    ducker: 2,
    reverb: 1,
    echo: 2,
    limiter: 1,
  };
  return processorFields(processor, () => 'another strip')
    .slice(0, first[processor.kind])
    .map(([label, text]) => `${label} ${text}`)
    .join(', ');
}
