import { createRequire } from 'node:module';
import path from 'node:path';
import type { Flac } from 'libflacjs';
import { OrvidError } from '@/core/errors';
import { PcmEncoder, vorbisComments, type SoundTags } from '@/core/formats';
import { PieceWriter, type SoundBlock, type Written } from './write-wav';

type FlacLibrary = Flac;

let library: Promise<FlacLibrary> | null = null;

/** Loads the encoder. Where it finds `fetch` it asks the network for its own file: it must not find it. */
function loadLibrary(): Promise<FlacLibrary> {
  library ??= new Promise((resolve) => {
    const require = createRequire(path.join(process.cwd(), 'package.json'));
    const { fetch } = globalThis;
    let flac: FlacLibrary;
    try {
      Object.assign(globalThis, { fetch: undefined });
      flac = (require('libflacjs') as (variant: string) => FlacLibrary)('min.wasm');
    } finally {
      Object.assign(globalThis, { fetch });
    }
    if (flac.isReady()) resolve(flac);
    else flac.on('ready', () => resolve(flac));
  });
  return library;
}

const COMPRESSION = 5;
const STREAMINFO_BYTES = 34;
/** Kinds of metadata blocks. Source: RFC 9639, section 8.1. */
const STREAMINFO = 0;
const COMMENTS = 4;
const LAST = 0x80;

function block(kind: number, body: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(4 + body.length);
  new DataView(bytes.buffer).setUint32(0, body.length);
  bytes[0] = kind;
  bytes.set(body, 4);
  return bytes;
}

/** What the stream says of itself. Source: RFC 9639, section 8.2. */
function streamInfo(
  facts: { min_framesize: number; max_framesize: number; min_blocksize: number; max_blocksize: number; md5sum: string },
  shape: { channels: number; rateHz: number; bits: number },
  frames: number,
): Uint8Array {
  const body = new Uint8Array(STREAMINFO_BYTES);
  const view = new DataView(body.buffer);
  view.setUint16(0, facts.min_blocksize);
  view.setUint16(2, facts.max_blocksize);
  const frameSize = (at: number, value: number) => {
    body[at] = value >> 16;
    view.setUint16(at + 1, value & 0xffff);
  };
  frameSize(4, facts.min_framesize);
  frameSize(7, facts.max_framesize);
  view.setBigUint64(
    10,
    (BigInt(shape.rateHz) << 44n) |
      (BigInt(shape.channels - 1) << 41n) |
      (BigInt(shape.bits - 1) << 36n) |
      BigInt(frames),
  );
  body.set(Buffer.from(facts.md5sum, 'hex').subarray(0, 16), 18);
  return body;
}

/** Whole numbers as the encoder takes them, from the bytes of a WAV file. */
function integers(bytes: Uint8Array, bits: '16' | '24'): Int32Array<ArrayBuffer> {
  const width = bits === '16' ? 2 : 3;
  const values = new Int32Array(bytes.length / width);
  for (let i = 0, at = 0; i < values.length; i++, at += width)
    values[i] =
      width === 2
        ? ((bytes[at] << 16) | (bytes[at + 1] << 24)) >> 16
        : ((bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24)) >> 8;
  return values;
}

/** Writes a FLAC file piece by piece: the same integers as a WAV file of its depth. The file must not exist yet. */
export async function writeFlac(
  file: string,
  shape: { channels: number; rateHz: number; format: '16' | '24' },
  blocks: Iterable<SoundBlock>,
  tags: SoundTags,
): Promise<Written> {
  const flac = await loadLibrary();
  const bits = Number(shape.format);
  const encoder = new PcmEncoder(shape.channels, shape.format);
  const handle = flac.create_libflac_encoder(shape.rateHz, shape.channels, bits, COMPRESSION, 0, false, 0);
  if (handle === 0) throw new OrvidError('internal', 'The FLAC encoder could not be started.');
  const made: Uint8Array[] = [];
  let facts: Parameters<typeof streamInfo>[0] | undefined;
  // Its own metadata, which it writes first, is left out: it is not complete, and says less.
  const status = flac.init_encoder_stream(
    handle,
    (data: Uint8Array, _bytes: number, samples: number) => {
      if (samples > 0) made.push(data.slice());
    },
    (metadata?: Parameters<typeof streamInfo>[0]) => void (facts = metadata),
  );
  if (status !== 0) throw new OrvidError('invalid-input', `FLAC cannot hold ${shape.rateHz} Hz at ${bits} bit.`);
  const head = (info: Uint8Array) =>
    Buffer.concat([Buffer.from('fLaC'), block(STREAMINFO, info), block(COMMENTS | LAST, vorbisComments(tags))]);
  const out = await PieceWriter.open(file);
  let frames = 0;
  const drain = async () => {
    for (const piece of made.splice(0)) await out.add(piece);
  };
  try {
    await out.add(head(new Uint8Array(STREAMINFO_BYTES)));
    for (const { samples, frames: count } of blocks) {
      const values = integers(encoder.encode(samples, count), shape.format);
      if (!flac.FLAC__stream_encoder_process_interleaved(handle, values, count))
        throw new OrvidError('internal', 'The FLAC encoder refused some samples.');
      frames += count;
      await drain();
    }
    flac.FLAC__stream_encoder_finish(handle);
    await drain();
    await out.finish(head(streamInfo(facts!, { ...shape, bits }, frames)));
  } finally {
    flac.FLAC__stream_encoder_delete(handle);
    await out.close();
  }
  return { frames, clippedSamples: encoder.clippedSamples };
}
