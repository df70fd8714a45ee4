import { OrvidError } from '../errors';
import { asciiText } from './recording-notes';
import { frameBytes, type SampleFormat, type WavInfo } from './wav';

/** What an AIFF or AIFF-C file holds, and in which order the bytes of its samples lie. */
export interface AiffInfo extends WavInfo {
  isBigEndian: boolean;
}

/** Bytes of a format chunk that plain AIFF has; AIFF-C names its compression after them. */
const COMMON_BYTES = 18;
const BEFORE_SAMPLES = 8;

/** Whether a file begins as AIFF and AIFF-C files do. @param head its first twelve bytes */
export const isAiff = (head: Uint8Array): boolean =>
  head.length >= 12 && asciiText(head, 0, 4) === 'FORM' && ['AIFF', 'AIFC'].includes(asciiText(head, 8, 4));

function unreadable(problem: string): OrvidError {
  return new OrvidError('unreadable-audio', problem);
}

/** A number of 80 bits: sign and exponent in 16, then the whole mantissa in 64. Source: IEEE 754-1985, double extended; Apple SANE. */
export function readExtended(data: DataView, at: number): number {
  const exponent = (data.getUint16(at) & 0x7fff) - 16383;
  return Number(data.getBigUint64(at + 2)) * 2 ** (exponent - 63);
}

/** @param bits of a sample: those of fewer than its bytes hold lie at their upper end */
function formatOf(compression: string, bits: number): { format: SampleFormat; isBigEndian: boolean } {
  const integers = { 2: '16', 3: '24', 4: '32' }[Math.ceil(bits / 8)] as SampleFormat | undefined;
  const floats = { fl32: '32f', fl64: '64f' }[compression.toLowerCase()] as SampleFormat | undefined;
  const isPlain = ['NONE', 'twos', 'sowt', 'in24', 'in32'].includes(compression);
  const format = floats ?? (isPlain ? integers : undefined);
  if (format) return { format, isBigEndian: compression !== 'sowt' };
  throw unreadable(
    `AIFF with ${bits}-bit samples of the kind “${compression}”; 16, 24 and 32-bit integer and 32 and 64-bit float can be read`,
  );
}

/**
 * Reads the header of an AIFF or AIFF-C file with samples that are not compressed, any order of chunks. A file that was cut short, or
 * whose recorder was interrupted, is read as far as it goes.
 * Sources: Apple, “Audio Interchange File Format: AIFF”, version 1.3 (1989); Apple, “AIFF-C”, draft of 26 August 1991.
 * @param read gives `length` bytes from `offset`, fewer at the end of the file
 * @param fileBytes length of the file
 * @throws OrvidError `unreadable-audio` that says what is wrong with the file
 */
export async function readAiffHeader(
  read: (offset: number, length: number) => Promise<Uint8Array>,
  fileBytes: number,
): Promise<AiffInfo> {
  const view = async (offset: number, length: number) => {
    const bytes = await read(offset, length);
    if (bytes.length < length) throw unreadable('the AIFF header ends before it is complete');
    return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  };
  const name = (data: DataView, at: number) => String.fromCharCode(...[0, 1, 2, 3].map((i) => data.getUint8(at + i)));
  let common: (Pick<AiffInfo, 'channels' | 'rateHz' | 'format' | 'isBigEndian'> & { frames: number }) | undefined;
  let samples: { start: number; bytes: number } | undefined;
  for (let offset = 12; offset + 8 <= fileBytes && !(common && samples);) {
    const chunk = await view(offset, 8);
    const id = name(chunk, 0);
    const size = chunk.getUint32(4);
    const body = offset + 8;
    if (id === 'COMM') {
      if (size < COMMON_BYTES) throw unreadable('the AIFF format chunk is too short');
      const fields = await view(body, Math.min(size, COMMON_BYTES + 4));
      const compression = size >= COMMON_BYTES + 4 ? name(fields, COMMON_BYTES) : 'NONE';
      common = {
        channels: fields.getUint16(0),
        frames: fields.getUint32(2),
        rateHz: Math.round(readExtended(fields, 8)),
        ...formatOf(compression, fields.getUint16(6)),
      };
    }
    if (id === 'SSND') {
      const start = body + BEFORE_SAMPLES + (await view(body, BEFORE_SAMPLES)).getUint32(0);
      const end = size <= BEFORE_SAMPLES ? fileBytes : Math.min(fileBytes, body + size);
      samples = { start, bytes: Math.max(0, end - start) };
    }
    offset = body + size + (size % 2);
  }
  if (!common) throw unreadable('the AIFF file does not say how its samples are stored');
  if (!samples) throw unreadable('the AIFF file has no audio data');
  const { frames: told, ...shape } = common;
  if (shape.channels < 1 || !(shape.rateHz >= 1))
    throw unreadable('the AIFF header names no channels or no sample rate');
  const there = Math.floor(samples.bytes / frameBytes(shape));
  return { ...shape, dataStart: samples.start, frames: told === 0 ? there : Math.min(told, there) };
}

/** Turns samples of so many bytes round, where they lie. */
export function swapBytes(bytes: Uint8Array, sampleBytes: number): void {
  const last = sampleBytes - 1;
  for (let at = 0; at + last < bytes.length; at += sampleBytes)
    for (let i = 0; 2 * i < last; i++) {
      const kept = bytes[at + i];
      bytes[at + i] = bytes[at + last - i];
      bytes[at + last - i] = kept;
    }
}
