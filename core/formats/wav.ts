import { OrvidError } from '../errors';

/** How the samples of a WAV file are stored. `16`, `24`, `32`: integers; `32f`, `64f`: floating point. */
export type SampleFormat = '16' | '24' | '32' | '32f' | '64f';
/** The formats that are written. */
export const RENDER_FORMATS = ['16', '24', '32f'] as const;
export type RenderFormat = (typeof RENDER_FORMATS)[number];

/** What a WAV file holds and where its samples lie. */
export interface WavInfo {
  channels: number;
  rateHz: number;
  format: SampleFormat;
  dataStart: number;
  frames: number;
}

const BYTES: Record<SampleFormat, number> = { '16': 2, '24': 3, '32': 4, '32f': 4, '64f': 8 };
const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;
const UNKNOWN_SIZE = 0xffffffff;
/** What follows the format tag in the identifier of an extensible header. */
const PCM_GUID_TAIL = [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71];

/** Bytes of one frame: a sample of each channel. */
export function frameBytes(info: Pick<WavInfo, 'channels' | 'format'>): number {
  return BYTES[info.format] * info.channels;
}

function unreadable(problem: string): OrvidError {
  return new OrvidError('unreadable-audio', problem);
}

/** @param containerBytes bytes that a sample takes; integers of fewer bits lie at their upper end (WAVEFORMATEXTENSIBLE) */
function formatOf(tag: number, bits: number, containerBytes: number): SampleFormat {
  const stored = bits > 8 && bits <= containerBytes * 8 ? containerBytes * 8 : bits;
  const found =
    tag === PCM ? { 16: '16', 24: '24', 32: '32' }[stored] : tag === FLOAT ? { 32: '32f', 64: '64f' }[bits] : undefined;
  if (found) return found as SampleFormat;
  const kind = tag === PCM ? 'integer' : tag === FLOAT ? 'float' : `format ${tag}`;
  throw unreadable(
    `WAV with ${bits}-bit ${kind} samples; 16, 24 and 32-bit integer and 32 and 64-bit float can be read`,
  );
}

/**
 * Reads the header of a WAV, RF64 or BW64 file: plain and extensible, any order of chunks. A data chunk that claims more than the
 * file holds, or none, is read as far as the file goes, as players do with interrupted recordings.
 * Source: EBU Tech 3306 (RF64), ITU-R BS.2088 (BW64), Microsoft/IBM Multimedia Programming Interface 1.0.
 * @param read gives `length` bytes from `offset`, fewer at the end of the file
 * @param fileBytes length of the file
 * @throws OrvidError `unreadable-audio` that says what is wrong with the file
 */
export async function readWavHeader(
  read: (offset: number, length: number) => Promise<Uint8Array>,
  fileBytes: number,
): Promise<WavInfo> {
  const view = async (offset: number, length: number) => {
    const bytes = await read(offset, length);
    if (bytes.length < length) throw unreadable('the WAV header ends before it is complete');
    return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  };
  const name = (data: DataView, at: number) => String.fromCharCode(...[0, 1, 2, 3].map((i) => data.getUint8(at + i)));
  const head = await view(0, 12);
  const kind = name(head, 0);
  if (!['RIFF', 'RF64', 'BW64'].includes(kind) || name(head, 8) !== 'WAVE') throw unreadable('not a WAV file');

  let longData = -1;
  let format: { channels: number; rateHz: number; format: SampleFormat } | null = null;
  for (let offset = 12; offset + 8 <= fileBytes;) {
    const chunk = await view(offset, 8);
    const id = name(chunk, 0);
    const size = chunk.getUint32(4, true);
    const body = offset + 8;
    if (id === 'ds64' && size >= 16) longData = Number((await view(body, 16)).getBigUint64(8, true));
    if (id === 'fmt ') {
      const fields = await view(body, Math.min(size, 40));
      if (size < 16) throw unreadable('the WAV format chunk is too short');
      let tag = fields.getUint16(0, true);
      if (tag === EXTENSIBLE) {
        if (size < 40) throw unreadable('the WAV extensible format chunk is too short');
        tag = fields.getUint16(24, true);
      }
      const channels = fields.getUint16(2, true);
      const containerBytes = fields.getUint16(12, true) / Math.max(1, channels);
      format = {
        channels,
        rateHz: fields.getUint32(4, true),
        format: formatOf(tag, fields.getUint16(14, true), containerBytes),
      };
    }
    if (id === 'data') {
      if (!format) throw unreadable('the WAV data comes before its format');
      if (format.channels < 1 || format.rateHz < 1)
        throw unreadable('the WAV header names no channels or no sample rate');
      const claimed = size === UNKNOWN_SIZE && kind !== 'RIFF' && longData >= 0 ? longData : size;
      const rest = fileBytes - body;
      // A recorder that was interrupted has not written how much there is.
      const bytes = claimed === 0 ? rest : Math.min(claimed, rest);
      return { ...format, dataStart: body, frames: Math.floor(bytes / frameBytes(format)) };
    }
    offset = body + size + (size % 2);
  }
  throw unreadable('the WAV file has no audio data');
}

/** The stored numbers as an array of their own kind, and what full scale is among them. */
function storedSamples(
  bytes: Uint8Array,
  format: Exclude<SampleFormat, '16' | '24'>,
): { values: ArrayLike<number>; fullScale: number } {
  const aligned = bytes.slice();
  switch (format) {
    case '32':
      return { values: new Int32Array(aligned.buffer), fullScale: 0x80000000 };
    case '32f':
      return { values: new Float32Array(aligned.buffer), fullScale: 1 };
    case '64f':
      return { values: new Float64Array(aligned.buffer), fullScale: 1 };
  }
}

/** Samples of 16 bit, which 32-bit floats hold to the last bit. */
function samplesOf16(bytes: Uint8Array, frames: number, channels: number): Float32Array[] {
  const values = new Int16Array(bytes.slice(0, 2 * frames * channels).buffer);
  return Array.from({ length: channels }, (_, c) => {
    const samples = new Float32Array(frames);
    for (let n = 0, at = c; n < frames; n++, at += channels) samples[n] = values[at] / 0x8000;
    return samples;
  });
}

const SCALE_24 = 1 / 0x800000;

/** Samples of 24 bit: four of them are read as three whole words, which is faster than by bytes. */
function samplesOf24(bytes: Uint8Array, frames: number, channels: number): Float32Array[] {
  const sides = Array.from({ length: channels }, () => new Float32Array(frames));
  const count = frames * channels;
  const wholeWords = channels > 2 ? 0 : 3 * Math.floor(count / 4);
  const words = new Int32Array(bytes.slice(0, 4 * wholeWords).buffer);
  // Of mono the second of two samples is the next frame's.
  const left = sides[0];
  const right = channels === 1 ? sides[0] : sides[1];
  const [second, third, step] = channels === 1 ? [1, 2, 4] : [0, 1, 2];
  for (let frame = 0, at = 0; at < words.length; frame += step, at += 3) {
    const low = words[at];
    const middle = words[at + 1];
    const high = words[at + 2];
    left[frame] = ((low << 8) >> 8) * SCALE_24;
    right[frame + second] = ((((low >>> 24) | (middle << 8)) << 8) >> 8) * SCALE_24;
    left[frame + third] = ((((middle >>> 16) | (high << 16)) << 8) >> 8) * SCALE_24;
    right[frame + second + third] = (high >> 8) * SCALE_24;
  }
  for (let i = (4 * wholeWords) / 3, at = 4 * wholeWords; i < count; i++, at += 3)
    sides[i % channels][Math.floor(i / channels)] =
      (((bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24)) >> 8) * SCALE_24;
  return sides;
}

/**
 * Samples of interleaved frames as one array per channel, −1 to 1 (floats as they are). Little-endian hosts only, as all are
 * that Node.js and browsers run on today.
 * @param bytes whole frames
 * @throws OrvidError `unreadable-audio` for floats that are not numbers
 */
export function decodeFrames(
  bytes: Uint8Array,
  info: Pick<WavInfo, 'channels' | 'format'>,
): (Float32Array | Float64Array)[] {
  const { channels, format } = info;
  const frames = Math.floor(bytes.length / frameBytes(info));
  if (format === '16') return samplesOf16(bytes, frames, channels);
  if (format === '24') return samplesOf24(bytes, frames, channels);
  const { values, fullScale } = storedSamples(bytes.subarray(0, frames * frameBytes(info)), format);
  const scale = 1 / fullScale;
  return Array.from({ length: channels }, (_, c) => {
    const samples = new Float64Array(frames);
    let oddities = 0;
    for (let n = 0, at = c; n < frames; n++, at += channels) {
      const value = values[at] * scale;
      samples[n] = value;
      const kept = Math.fround(value);
      oddities += kept - kept; // 0 for every number, NaN for NaN and the infinities
    }
    if (oddities !== 0) throw unreadable('it holds samples that are no numbers, or too large for 32 bit');
    return samples;
  });
}

/**
 * A WAV header. More than 4 GB of samples makes it an RF64 header of the same length.
 * Plain header for 16-bit, extensible for 24 and 32-bit, with a fact chunk for floats, as the specification asks.
 * @param chunks whole chunks that stand before the samples, each of an even length
 */
export function wavHeader(
  info: {
    channels: number;
    rateHz: number;
    format: SampleFormat;
    frames: number;
  },
  chunks: Uint8Array = new Uint8Array(),
): Uint8Array {
  const { channels, rateHz, format, frames } = info;
  const block = BYTES[format] * channels;
  const dataBytes = frames * block;
  const isFloat = format === '32f' || format === '64f';
  const extensible = format === '24' || format === '32';
  const fmtBytes = extensible ? 40 : isFloat ? 18 : 16;
  const factBytes = isFloat ? 12 : 0;
  const headerBytes = 12 + 36 + 8 + fmtBytes + factBytes + chunks.length + 8;
  const isLong = headerBytes + dataBytes > UNKNOWN_SIZE;
  const bytes = new Uint8Array(headerBytes);
  const view = new DataView(bytes.buffer);
  let at = 0;
  const text = (value: string) => [...value].forEach((letter) => view.setUint8(at++, letter.charCodeAt(0)));
  const u16 = (value: number) => (view.setUint16(at, value, true), (at += 2));
  const u32 = (value: number) => (view.setUint32(at, value, true), (at += 4));
  const u64 = (value: number) => (view.setBigUint64(at, BigInt(value), true), (at += 8));
  text(isLong ? 'RF64' : 'RIFF');
  u32(isLong ? UNKNOWN_SIZE : headerBytes - 8 + dataBytes + (dataBytes % 2));
  text('WAVE');
  text(isLong ? 'ds64' : 'JUNK');
  u32(28);
  u64(isLong ? headerBytes - 8 + dataBytes : 0);
  u64(isLong ? dataBytes : 0);
  u64(isLong ? frames : 0);
  u32(0);
  text('fmt ');
  u32(fmtBytes);
  u16(extensible ? EXTENSIBLE : isFloat ? FLOAT : PCM);
  u16(channels);
  u32(rateHz);
  u32(rateHz * block);
  u16(block);
  u16(BYTES[format] * 8);
  if (isFloat) u16(0);
  if (extensible) {
    u16(22);
    u16(BYTES[format] * 8);
    u32(channels === 1 ? 4 : 3);
    u16(PCM);
    PCM_GUID_TAIL.forEach((byte) => view.setUint8(at++, byte));
  }
  if (isFloat) {
    text('fact');
    u32(4);
    u32(isLong ? UNKNOWN_SIZE : frames);
  }
  bytes.set(chunks, at);
  at += chunks.length;
  text('data');
  u32(isLong ? UNKNOWN_SIZE : dataBytes);
  return bytes;
}
