import { Resampler } from '@/core/resample/resampler';

/**
 * Brings a recording to another sample rate, piece by piece, see {@link Resampler}.
 * @param blocks one array per channel, equal lengths
 */
export async function* resample(
  blocks: AsyncIterable<ArrayLike<number>[]>,
  channels: 1 | 2,
  fromHz: number,
  toHz: number,
): AsyncGenerator<ArrayLike<number>[]> {
  if (fromHz === toHz) {
    yield* blocks;
    return;
  }
  const resampler = new Resampler(fromHz, toHz, channels);
  for await (const block of blocks) yield resampler.push(block);
  yield resampler.finish();
}
