import { SUPPORTED_RATES_HZ, type Song } from '../song';
import { nameWithin } from './text';

/** A place in a recording that its file names. */
export interface Marker {
  name: string;
  seconds: number;
}

/** What the file of a recording says of itself beside its sound. */
export interface RecordingNotes {
  /** Its sample rate; null where nothing is said. */
  rateHz: number | null;
  /** In their order in time. */
  markers: Marker[];
  /** Where its first sample stands, seconds from midnight or from wherever the recorder counts; null where nothing is said. */
  timeReferenceSeconds: number | null;
  /** Names of its channels, in their order; empty where they have none. */
  channelNames: string[];
}

export const NO_NOTES: RecordingNotes = { rateHz: null, markers: [], timeReferenceSeconds: null, channelNames: [] };

/** The rate that recordings have in common, as far as their files say one; null where they differ, nothing is said, or no song can have it. */
export function commonRate(rates: readonly (number | null)[]): Song['rateHz'] | null {
  const known = new Set(rates.filter((rateHz) => rateHz !== null));
  return known.size === 1 ? (SUPPORTED_RATES_HZ.find((rateHz) => known.has(rateHz)) ?? null) : null;
}

/** Reads some bytes of a file; fewer where it ends. */
export type ReadAt = (from: number, length: number) => Promise<Uint8Array>;

export const MOST_MARKERS = 1000;
/** Chunks of marks are small: a longer one is not read. */
const LONGEST_CHUNK = 1 << 20;
/** So many chunks are looked through. */
const MOST_CHUNKS = 500;
/** Of an RF64 file the length of the samples stands elsewhere; marks behind them are beyond what is looked for. */
const LENGTH_ELSEWHERE = 0xffffffff;

export const asciiText = (bytes: Uint8Array, from: number, length: number) =>
  String.fromCharCode(...bytes.subarray(from, from + length));

/** Frames that have names, as markers: in their order in time, numbered where they have none. */
export const markersAt = (points: readonly { frame: number; name: string }[], rateHz: number): Marker[] =>
  [...points]
    .sort((a, b) => a.frame - b.frame)
    .map(({ frame, name }, i) => ({ name: nameWithin(name || `Marker ${i + 1}`), seconds: frame / rateHz }));

/** The chunks of some names in a file of chunks, in their order. @param size of the file, bytes */
export async function* chunksOf(
  readAt: ReadAt,
  size: number,
  { names, isLittleEndian }: { names: readonly string[]; isLittleEndian: boolean },
): AsyncGenerator<{ name: string; body: Uint8Array; view: DataView }> {
  for (let at = 12, chunks = 0; at + 8 <= size && chunks < MOST_CHUNKS; chunks++) {
    const header = await readAt(at, 8);
    if (header.length < 8) return;
    const name = asciiText(header, 0, 4);
    const told = new DataView(header.buffer, header.byteOffset).getUint32(4, isLittleEndian);
    const length = told === LENGTH_ELSEWHERE ? size : told;
    if (names.includes(name) && length <= LONGEST_CHUNK) {
      const body = await readAt(at + 8, length);
      yield { name, body, view: new DataView(body.buffer, body.byteOffset, body.byteLength) };
    }
    at += 8 + length + (length % 2);
  }
}
