import { bandwidthFromQ, legalOrder, qFromBandwidth } from '../filters';
import { frequencyOfNote, noteOf, SPEED_OF_SOUND, wavelengthMetres } from '../measure/pitch';
import {
  FREQUENCY_RANGE_HZ,
  hasGain,
  hasQ,
  isPassFilter,
  Q_RANGE,
  type BandSettings,
  type PassFamily,
} from '../song/band';

/** What people type into figures, and how figures are written. A comma serves as a decimal point, − as a minus. */
const MINUS = '−';

/** What was typed lies beyond what is possible: the nearest value that is. */
export class Nearest<T = number> {
  constructor(readonly value: T) {}
}

/** What was made of a typed text: its value, the nearest that is possible, or null for what cannot be read. */
export type Typed<T = number> = T | Nearest<T> | null;

/** The value as far as it is possible; null for what cannot be read. */
export const possible = <T>(typed: Typed<T>): T | null => (typed instanceof Nearest ? typed.value : typed);

/** Something made of the value. */
export function mapTyped<A, B>(typed: Typed<A>, to: (value: A) => B): Typed<B> {
  if (typed instanceof Nearest) return new Nearest(to(typed.value));
  return typed === null ? null : to(typed);
}

interface Limits {
  min: number;
  max: number;
}

/** A typed number, or the end of the range that it lies beyond. */
export function within(value: number, { min, max }: Limits): number | Nearest {
  if (value < min) return new Nearest(min);
  return value > max ? new Nearest(max) : value;
}

function plainNumber(text: string): number | null {
  const cleaned = text.trim().replace(/[−–]/g, '-').replace(',', '.');
  return /^[+-]?(\d+\.?\d*|\.\d+)$/.test(cleaned) ? Number(cleaned) : null;
}

/** The frequency of a wavelength: `1.2 m`, `34 cm`. @returns Hz; null for what is none */
function frequencyOfWave(text: string): number | null {
  const match = /^(.+?)\s*(c?m)$/i.exec(text);
  const length = match && plainNumber(match[1]);
  return match && length !== null && length! > 0
    ? SPEED_OF_SOUND / (length! / (match[2].length === 2 ? 100 : 1))
    : null;
}

/** Thousands set apart, by a comma too: nobody means two and a half hertz by `2,500`. */
const THOUSANDS = /^[1-9]\d{0,2}(?:[,'’\s]\d{3})+$/;

/** @param text without its unit */
function hertz(text: string, isKilo: boolean): number | null {
  if (!isKilo && THOUSANDS.test(text)) return Number(text.replace(/\D/g, ''));
  const [, whole, rest] = /^(\d+)k(\d+)$/i.exec(text) ?? [];
  if (whole !== undefined) return isKilo ? null : 1000 * Number(`${whole}.${rest}`);
  const number = plainNumber(text);
  return number === null ? null : number * (isKilo ? 1000 : 1);
}

/**
 * A frequency: `440`, `440 Hz`, `2.5k`, `2k5`, `2.5 kHz`, `2,500`, `A4`, `c#3`, `A4+20`, `C♯4 +48 ct`, `1.2 m`; of the crosshair's whole text its first figure.
 * @returns Hz, up to 30 kHz; null for what cannot be read, and for less than 10 Hz, by which kilohertz may be meant
 */
export function parseFrequency(text: string): Typed {
  const [first] = text.split('·').map((part) => part.trim());
  const match = /^(.*?)\s*(k)?\s*(hz)?$/i.exec(first)!;
  const hz = hertz(match[1], match[2] !== undefined) ?? frequencyOfNote(first) ?? frequencyOfWave(first);
  return hz === null || hz < FREQUENCY_RANGE_HZ.min ? null : within(hz, FREQUENCY_RANGE_HZ);
}

/** A gain: `-3`, `+2.5 dB`. @returns dB, within the range; null for what cannot be read */
export function parseGain(text: string, range: Limits): Typed {
  const db = plainNumber(text.replace(/\s*db$/i, ''));
  return db === null ? null : within(db, range);
}

/** A width: `0.7 oct`, `0.7` (octaves), `Q 2.1`, `2.1 q`. @returns Q, 0.1 to 100; null for what cannot be read */
export function parseWidth(text: string): Typed {
  const asQ = /^q\s*=?\s*(.+)$|^(.+?)\s*q$/i.exec(text.trim());
  const number = plainNumber(asQ ? (asQ[1] ?? asQ[2]) : text.replace(/\s*oct(aves?)?\.?$/i, ''));
  if (number === null || number <= 0) return null;
  return within(asQ ? number : qFromBandwidth(number), Q_RANGE);
}

/** A resonance: `4`, `Q 4`. @returns Q within the range; null for what cannot be read */
export function parseQ(text: string, range: Limits = Q_RANGE): Typed {
  const number = plainNumber(text.replace(/^q\s*=?\s*|\s*q$/gi, ''));
  return number === null || number <= 0 ? null : within(number, range);
}

/** A slope: `18`, `18 dB/oct`, `order 3`. @returns the nearest order of the family; null for what is not a whole order */
export function parseSlope(text: string, family: PassFamily): Typed {
  const asOrder = /^order\s*(\d+)$|^(\d+)\s*\.?\s*order$/i.exec(text.trim());
  const number = plainNumber(asOrder ? (asOrder[1] ?? asOrder[2]) : text.replace(/\s*db(\s*\/\s*oct\.?)?$/i, ''));
  const order = number === null ? NaN : asOrder ? number : number / 6;
  if (!Number.isInteger(order) || order < 1) return null;
  const legal = legalOrder(family, order);
  return legal === order ? order : new Nearest(legal);
}

/**
 * A delay: `1.42`, `1.42 ms`, `68 samples`, `−12.5 spl`, `0.5 m` of air.
 * @returns milliseconds within the range; null for what cannot be read
 */
export function parseDelay(text: string, rateHz: number, range: Limits): Typed {
  const match = /^(.+?)\s*(ms|samples?|spl|frames?|c?m)?$/i.exec(text.trim());
  const number = match && plainNumber(match[1]);
  if (!match || number === null) return null;
  const unit = (match[2] ?? 'ms').toLowerCase();
  const metres = unit === 'm' ? 1 : unit === 'cm' ? 0.01 : 0;
  const scale = unit === 'ms' ? 1 : 1000 * (metres > 0 ? metres / SPEED_OF_SOUND : 1 / rateHz);
  return within(number! * scale, range);
}

/** A position between the sides: `L 30`, `30 L`, `R100`, `C`, `0`. @returns −1 to 1; null for what cannot be read */
export function parsePan(text: string): Typed {
  const trimmed = text.trim();
  if (/^(c|centre|center|0)$/i.test(trimmed)) return 0;
  const match = /^([lr])\s*(\d+(?:[.,]\d+)?)$|^(\d+(?:[.,]\d+)?)\s*([lr])$/i.exec(trimmed);
  if (!match) return null;
  const amount = plainNumber(match[2] ?? match[3])!;
  const side = (match[1] ?? match[4]).toLowerCase();
  return mapTyped(within(amount, { min: 0, max: 100 }), (percent) => (percent / 100) * (side === 'l' ? -1 : 1));
}

/** `104 Hz`, `3.10 kHz`. */
export function writeFrequency(hz: number): string {
  if (hz < 1000) return `${hz < 100 ? Number(hz.toFixed(1)) : Math.round(hz)} Hz`;
  return `${(hz / 1000).toFixed(2)} kHz`;
}

/** `+2.6 dB`, `−4.2 dB`, `0.0 dB`. */
export function writeGain(db: number): string {
  const text = Math.abs(db).toFixed(1);
  return `${text === '0.0' ? '' : db > 0 ? '+' : MINUS}${text} dB`;
}

/** A number without a plus, with a true minus: `−18.3`. */
export function writeNumber(value: number, digits = 1): string {
  const text = Math.abs(value).toFixed(digits);
  return value < 0 && Number(text) !== 0 ? `${MINUS}${text}` : text;
}

/** `1.42 ms`, `−0.031 ms`: to a hundredth, or to a thousandth where it is short. */
export const writeDelay = (ms: number) => `${writeNumber(ms, Math.abs(ms) < 1 && ms !== 0 ? 3 : 2)} ms`;

/** `0.68 oct`. */
export function writeWidth(q: number): string {
  return `${bandwidthFromQ(q).toFixed(2)} oct`;
}

/** `18 dB/oct`. */
export const writeSlope = (order: number) => `${order * 6} dB/oct`;

/** `L 30`, `C`, `R 100`. */
export function writePan(pan: number): string {
  const amount = Math.round(Math.abs(pan) * 100);
  return amount === 0 ? 'C' : `${pan < 0 ? 'L' : 'R'} ${amount}`;
}

/** `C♯4 +48 ct`. */
export function writeNote(hz: number): string {
  const { name, cents } = noteOf(hz);
  return `${name} ${cents < 0 ? MINUS : '+'}${Math.abs(cents)} ct`;
}

/** `1.2 m`, `34 cm`. */
export function writeWavelength(hz: number): string {
  const metres = wavelengthMetres(hz);
  if (metres >= 1) return `${metres.toFixed(1)} m`;
  return `${(metres * 100).toFixed(metres < 0.1 ? 1 : 0)} cm`;
}

/** `0:12.4`. */
export function writeTime(seconds: number): string {
  const tenths = Math.floor(seconds * 10 + 1e-6);
  return `${Math.floor(tenths / 600)}:${String(Math.floor(tenths / 10) % 60).padStart(2, '0')}.${tenths % 10}`;
}

/** A time to the millisecond: `1:05.250`. */
export function writeMoment(seconds: number): string {
  const thousandths = Math.round(Math.abs(seconds) * 1000);
  const minutes = Math.floor(thousandths / 60000);
  const rest = String(((thousandths % 60000) / 1000).toFixed(3)).padStart(6, '0');
  return `${seconds < -0.0005 ? '−' : ''}${minutes}:${rest}`;
}

/** A typed time: `1:05.25`, `65.25`, `65,25 s`. @returns seconds; null for what cannot be read */
export function parseSeconds(text: string): number | null {
  const match = /^([−-]?)(?:(\d+):)?(\d+(?:[.,]\d*)?|[.,]\d+)\s*s?$/i.exec(text.trim());
  if (!match) return null;
  const seconds = Number(match[3].replace(',', '.')) + 60 * Number(match[2] ?? 0);
  return Number.isFinite(seconds) ? (match[1] ? -1 : 1) * seconds : null;
}

/** A length without fractions: `0:42`, `3:05`. */
export function writeLength(seconds: number): string {
  const whole = Math.round(seconds);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
}

/** What a band does, in figures: `285 Hz, −4.2 dB, 0.68 oct`; `104 Hz, 18 dB/oct`. */
export function bandSummary(band: BandSettings): string {
  const figures = [writeFrequency(band.frequencyHz)];
  if (hasGain(band.type)) figures.push(writeGain(band.gainDb));
  if (band.type === 'twin-shelf') figures.push(writeGain(band.boostDb), writeGain(-band.cutDb));
  if (isPassFilter(band.type)) figures.push(writeSlope(band.order));
  else if (hasQ(band.type)) figures.push(writeWidth(band.q));
  return figures.join(', ');
}

const BYTE_UNITS = ['bytes', 'KB', 'MB', 'GB', 'TB'];

/** `1.2 GB`: powers of 1000, as disks are sold. */
export function writeBytes(bytes: number): string {
  let [value, unit] = [bytes, 0];
  for (; value >= 999.5 && unit < BYTE_UNITS.length - 1; unit++) value /= 1000;
  return `${value < 9.95 && unit > 0 ? value.toFixed(1) : Math.round(value)} ${BYTE_UNITS[unit]}`;
}
