import * as loaded from '@alexanderolsen/libsamplerate-js';

/** The package is CommonJS: loaders differ in whether its exports have names of their own. */
const { ConverterType, create } = ('default' in loaded ? loaded.default : loaded) as typeof loaded;

const BLOCK_FRAMES = 16384;

/**
 * Brings a recording to another sample rate, piece by piece, with libsamplerate's best sinc converter (its published
 * figures: 144 dB signal to noise, 96 % of the bandwidth). The length is the input's times the ratio, rounded.
 * @param blocks one array per channel, equal lengths
 */
export async function* resample(
  blocks: AsyncIterable<ArrayLike<number>[]>,
  channels: number,
  fromHz: number,
  toHz: number,
): AsyncGenerator<ArrayLike<number>[]> {
  if (fromHz === toHz) {
    yield* blocks;
    return;
  }
  // The converter takes rates up to 192 kHz; it is their ratio that counts.
  const part = Math.max(fromHz, toHz) > 192000 ? 2 : 1;
  const converter = await create(channels, fromHz / part, toHz / part, {
    converterType: ConverterType.SRC_SINC_BEST_QUALITY,
  });
  let framesIn = 0;
  let framesOut = 0;
  const convert = (interleaved: Float32Array, most: number) => {
    const out = converter.full(interleaved);
    const count = Math.min(out.length / channels, most - framesOut);
    framesOut += count;
    return Array.from({ length: channels }, (_, c) =>
      Float32Array.from({ length: count }, (__, n) => out[n * channels + c]),
    );
  };
  try {
    for await (const block of blocks) {
      for (let at = 0; at < block[0].length; at += BLOCK_FRAMES) {
        const count = Math.min(BLOCK_FRAMES, block[0].length - at);
        const interleaved = new Float32Array(count * channels);
        for (let c = 0; c < channels; c++)
          for (let n = 0; n < count; n++) interleaved[n * channels + c] = block[c][at + n];
        framesIn += count;
        yield convert(interleaved, Infinity);
      }
    }
    // The converter holds back its last samples until it has seen what follows: silence.
    const wanted = Math.round((framesIn * toHz) / fromHz);
    for (let tries = 0; framesOut < wanted && tries < 64; tries++)
      yield convert(new Float32Array(BLOCK_FRAMES * channels), wanted);
  } finally {
    converter.destroy();
  }
}
