import { open, type FileHandle } from 'node:fs/promises';
import type { SampleBits } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import {
  decodeFrames,
  frameBytes,
  readAiffHeader,
  readWavHeader,
  swapBytes,
  type AiffInfo,
  type SampleFormat,
} from '@/core/formats';
import { readFlacInfo, toExactScale } from './flac';
import { checkLength } from './length';

/** A recording as it is read: pieces of planar samples, −1 to 1. */
export interface DecodedAudio {
  format: string;
  rateHz: number;
  channels: number;
  /** Its samples are whole numbers of so many bits, or floats: what the file says of itself. */
  bits: SampleBits;
  /** How much of the file has been read, 0 to 1, while `blocks` runs. */
  progress: () => number;
  blocks: AsyncIterable<ArrayLike<number>[]>;
  /** In place of `blocks`, where the file holds 32-bit floats: the samples as they lie there, interleaved and unchecked. */
  floats?: AsyncIterable<FloatPiece>;
}

/** A piece of a file of floats; its memory is read into again once it is given back. */
export interface FloatPiece {
  interleaved: Float32Array;
  giveBack: () => void;
}

/** In how few bits the samples of a file of so many are written: none is rounded. */
const fewestBits = (bits: number): SampleBits => (bits <= 16 ? 16 : bits <= 24 ? 24 : 32);
const isFloat = (format: SampleFormat) => format === '32f' || format === '64f';

const CHUNK_BYTES = 1 << 18;
/** The first pieces are small: a few bytes may hold minutes of silence. */
const FIRST_CHUNK_BYTES = 1 << 10;
/** As much as one piece should become. */
const DECODED_BYTES = 1 << 24;
const MAX_SAMPLES_IN_BLOCK = 65536;

/** What the decoders of the compressed formats have in common. */
interface ChunkDecoder {
  ready: Promise<void>;
  decode(bytes: Uint8Array): DecodedChunk | Promise<DecodedChunk>;
  flush?(): DecodedChunk | Promise<DecodedChunk>;
  free(): void | Promise<void>;
}
interface DecodedChunk {
  channelData: Float32Array[];
  samplesDecoded: number;
  sampleRate: number;
  errors?: { message: string }[];
}

function unreadable(problem: string): OrvidError {
  return new OrvidError('unreadable-audio', problem);
}

async function readAt(
  file: FileHandle,
  offset: number,
  length: number,
  bytes = new Uint8Array(length),
): Promise<Uint8Array<ArrayBuffer>> {
  const { bytesRead } = await file.read(bytes, 0, length, offset);
  return bytes.subarray(0, bytesRead);
}

/**
 * What a file says it is, by its first bytes.
 * Sources: EBU Tech 3306 (WAV, RF64), ITU-R BS.2088 (BW64), Apple, “AIFF-C” (1991), RFC 9639 (FLAC), RFC 3533 (Ogg), RFC 7845 (Opus), ISO 11172-3 (MPEG audio frames), ID3v2.
 */
function sniff(head: Uint8Array): 'wav' | 'aiff' | 'flac' | 'vorbis' | 'opus' | 'mp3' | null {
  const text = Buffer.from(head).toString('latin1');
  if (['RIFF', 'RF64', 'BW64'].some((kind) => text.startsWith(kind))) return 'wav';
  if (text.startsWith('FORM') && /^AIF[FC]$/.test(text.slice(8, 12))) return 'aiff';
  if (text.startsWith('fLaC')) return 'flac';
  if (text.startsWith('OggS'))
    return text.includes('OpusHead') ? 'opus' : text.includes('\x01vorbis') ? 'vorbis' : null;
  if (text.startsWith('ID3')) return 'mp3';
  const isMpegFrame =
    head.length > 3 &&
    head[0] === 0xff &&
    (head[1] & 0xe0) === 0xe0 &&
    (head[1] & 0x06) !== 0 &&
    (head[2] & 0xf0) !== 0xf0;
  return isMpegFrame ? 'mp3' : null;
}

async function decoderFor(format: 'flac' | 'vorbis' | 'opus' | 'mp3'): Promise<ChunkDecoder> {
  switch (format) {
    case 'flac':
      return new (await import('@wasm-audio-decoders/flac')).FLACDecoder();
    case 'vorbis':
      return new (await import('@wasm-audio-decoders/ogg-vorbis')).OggVorbisDecoder();
    case 'opus':
      return new (await import('ogg-opus-decoder')).OggOpusDecoder();
    case 'mp3':
      return new (await import('mpg123-decoder')).MPEGDecoder() as ChunkDecoder;
  }
}

/**
 * Opens a recording: WAV, AIFF, FLAC, MP3, Ogg Vorbis or Opus, mono or stereo.
 * @throws OrvidError `unreadable-audio`, with what is wrong
 */
export async function withDecodedAudio<T>(path: string, use: (audio: DecodedAudio) => Promise<T>): Promise<T> {
  const file = await open(path, 'r');
  try {
    const { size } = await file.stat();
    if (size === 0) throw unreadable('the file is empty');
    const head = await readAt(file, 0, 512);
    const format = sniff(head);
    if (!format) throw unreadable('it is not a WAV, AIFF, FLAC, MP3, Ogg Vorbis or Opus file');
    const read = (offset: number, length: number) => readAt(file, offset, length);
    if (format === 'wav')
      return await withPcm(file, 'WAV', { ...(await readWavHeader(read, size)), isBigEndian: false }, use);
    if (format === 'aiff') return await withPcm(file, 'AIFF', await readAiffHeader(read, size), use);
    return await withCompressed(file, size, format, head, use);
  } finally {
    await file.close();
  }
}

/** @param frames as the file says; 0 where it does not */
function checkShape(channels: number, rateHz: number, frames: number): void {
  if (channels > 2) throw unreadable(`it has ${channels} channels; mono and stereo can be read`);
  if (rateHz < 8000 || rateHz > 384000) throw unreadable(`its sample rate of ${rateHz} Hz is outside 8 to 384 kHz`);
  checkLength(frames, rateHz);
}

async function withPcm<T>(
  file: FileHandle,
  kind: 'WAV' | 'AIFF',
  info: AiffInfo,
  use: (audio: DecodedAudio) => Promise<T>,
): Promise<T> {
  checkShape(info.channels, info.rateHz, info.frames);
  if (info.frames === 0) throw unreadable('it holds no samples');
  const bytesAFrame = frameBytes(info);
  let frame = 0;
  const pieceBytes = Math.min(MAX_SAMPLES_IN_BLOCK, info.frames) * bytesAFrame;
  /** Memory that was read into and is not needed any more. */
  const free: ArrayBuffer[] = [];
  const readBlock = async (from: number) => {
    const count = Math.max(0, Math.min(MAX_SAMPLES_IN_BLOCK, info.frames - from));
    if (count === 0) return { bytes: new Uint8Array(0), count };
    const room = new Uint8Array(free.pop() ?? new ArrayBuffer(pieceBytes));
    const bytes = await readAt(file, info.dataStart + from * bytesAFrame, count * bytesAFrame, room);
    if (bytes.length < count * bytesAFrame) throw unreadable('the file ended while it was being read');
    if (info.isBigEndian) swapBytes(bytes, bytesAFrame / info.channels);
    return { bytes, count };
  };
  /** The file's bytes; the next block is read while the last one is worked on. */
  async function* pieces() {
    let next = readBlock(0);
    while (frame < info.frames) {
      const { bytes, count } = await next;
      next = readBlock(frame + count);
      next.catch(() => undefined); // whoever stops early does not wait for it
      yield bytes;
      frame += count;
    }
  }
  async function* blocks() {
    for await (const bytes of pieces()) {
      const samples = decodeFrames(bytes, info);
      free.push(bytes.buffer);
      yield samples;
    }
  }
  async function* floats() {
    for await (const bytes of pieces())
      yield {
        interleaved: new Float32Array(bytes.buffer, 0, bytes.length / 4),
        giveBack: () => free.push(bytes.buffer),
      };
  }
  return use({
    format: `${kind} ${info.format}`,
    rateHz: info.rateHz,
    channels: info.channels,
    bits: isFloat(info.format) ? 32 : fewestBits(Number(info.format)),
    progress: () => frame / info.frames,
    blocks: blocks(),
    ...(info.format === '32f' && { floats: floats() }),
  });
}

async function withCompressed<T>(
  file: FileHandle,
  size: number,
  format: 'flac' | 'vorbis' | 'opus' | 'mp3',
  head: Uint8Array,
  use: (audio: DecodedAudio) => Promise<T>,
): Promise<T> {
  const decoder = await decoderFor(format);
  const flac = format === 'flac' ? readFlacInfo(head) : null;
  const exact = (channels: Float32Array[]) => (flac ? toExactScale(channels, flac.bitsPerSample) : channels);
  let at = 0;
  let decodedSamples = 0;
  async function* chunks(): AsyncGenerator<DecodedChunk> {
    await decoder.ready;
    let wanted = FIRST_CHUNK_BYTES;
    while (at < size) {
      const bytes = await readAt(file, at, Math.min(wanted, size - at));
      if (bytes.length === 0) break;
      at += bytes.length;
      const chunk = await decoder.decode(bytes);
      yield chunk;
      if (chunk.samplesDecoded === 0) continue;
      // So large that it becomes no more than is wanted, at the rate of this one.
      const grown = (chunk.samplesDecoded * chunk.channelData.length * 4) / bytes.length;
      wanted = Math.max(256, Math.min(CHUNK_BYTES, 2 * wanted, Math.floor(DECODED_BYTES / Math.max(1, grown))));
    }
    if (decoder.flush) yield await decoder.flush();
  }
  try {
    const all = chunks();
    const seen: DecodedChunk[] = [];
    let first: DecodedChunk | undefined;
    const faults: string[] = [];
    const note = (chunk: DecodedChunk) => faults.push(...(chunk.errors ?? []).map((error) => error.message));
    for (;;) {
      const next = await all.next();
      if (next.done) break;
      note(next.value);
      if (next.value.samplesDecoded > 0) {
        first = next.value;
        seen.push(first);
        break;
      }
    }
    const name = { flac: 'FLAC', vorbis: 'Ogg Vorbis', opus: 'Opus', mp3: 'MP3' }[format];
    if (!first)
      throw unreadable(`it begins like ${name}, but no sound could be decoded${faults[0] ? ` (${faults[0]})` : ''}`);
    checkShape(first.channelData.length, first.sampleRate, flac?.totalSamples ?? 0);
    async function* blocks() {
      for (const chunk of seen.splice(0)) {
        decodedSamples += chunk.samplesDecoded;
        yield exact(chunk.channelData);
      }
      for await (const chunk of all) {
        note(chunk);
        decodedSamples += chunk.samplesDecoded;
        if (chunk.samplesDecoded > 0) yield exact(chunk.channelData);
      }
      if (flac && flac.totalSamples > decodedSamples) {
        throw unreadable(`it is damaged: only ${decodedSamples} of its ${flac.totalSamples} samples could be decoded`);
      }
      if (faults.length > 0) throw unreadable(`it is damaged: ${name} decoding failed (${faults[0]})`);
    }
    return await use({
      format: name,
      rateHz: first.sampleRate,
      channels: first.channelData.length,
      bits: flac ? fewestBits(flac.bitsPerSample) : 32,
      progress: () => at / size,
      blocks: blocks(),
    });
  } catch (thrown) {
    if (thrown instanceof OrvidError) throw thrown;
    throw unreadable(`it could not be decoded (${thrown instanceof Error ? thrown.message : String(thrown)})`);
  } finally {
    // One that has trapped cannot be tidied up any more; every file has one of its own.
    const tidyUp = async () => decoder.free();
    await tidyUp().catch(() => undefined);
  }
}
