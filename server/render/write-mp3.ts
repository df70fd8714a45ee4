import { createMp3Encoder } from 'wasm-media-encoders';
import { id3Tag, type SoundTags } from '@/core/formats';
import { PieceWriter, type SoundBlock, type Written } from './write-wav';

/** Bits a second of a small file to send. */
const MP3_KBPS = 192;

/** Writes an MP3 file piece by piece. The file must not exist yet. */
export async function writeMp3(
  file: string,
  shape: { channels: number; rateHz: number },
  blocks: Iterable<SoundBlock>,
  tags: SoundTags,
  kbps: 96 | 128 | 192 = MP3_KBPS,
): Promise<Written> {
  const encoder = await createMp3Encoder();
  encoder.configure({ channels: shape.channels as 1 | 2, sampleRate: shape.rateHz, bitrate: kbps });
  const out = await PieceWriter.open(file);
  let frames = 0;
  let clippedSamples = 0;
  /** The encoder turns what is beyond full scale round. */
  const clipped = (samples: ArrayLike<number>, count: number) => {
    const floats = new Float32Array(count);
    for (let n = 0; n < count; n++) {
      const sample = samples[n];
      floats[n] = Math.min(1, Math.max(-1, sample));
      if (floats[n] !== Math.fround(sample)) clippedSamples++;
    }
    return floats;
  };
  try {
    await out.add(id3Tag(tags));
    for (const { samples, frames: count } of blocks) {
      await out.add(encoder.encode(samples.map((side) => clipped(side, count))).slice());
      frames += count;
    }
    await out.add(encoder.finalize().slice());
    await out.finish();
  } finally {
    await out.close();
  }
  return { frames, clippedSamples };
}
