import { designEqualizer, magnitudesDb } from '../filters';
import { channelsBehind, type BandChannel, type Chain, type Equalizer } from '../song';

/** Response of an equalizer on the path of a channel, by the coefficients that run. @returns dB, one value per frequency */
export function pathResponseDb(
  equalizer: Pick<Equalizer, 'bands' | 'outputGainDb'>,
  path: BandChannel,
  frequenciesHz: ArrayLike<number>,
  rateHz: number,
): Float64Array {
  return magnitudesDb(designEqualizer(equalizer, rateHz, path), frequenciesHz, rateHz);
}

const PAIRS: readonly (readonly [BandChannel, BandChannel])[] = [
  ['left', 'right'],
  ['mid', 'side'],
];

/**
 * What a chain does to the power of a signal: of the bands that act on everything, their response; of those that act on one of left
 * and right, or of mid and side, the mean power of the pair's two responses, since it is not known how the signal is shared out.
 * On a mono signal only the former act.
 * @param channels how many go into the chain
 * @returns dB, one value per frequency
 */
export function chainPowerDb(
  chain: Chain,
  channels: 1 | 2,
  frequenciesHz: ArrayLike<number>,
  rateHz: number,
): Float64Array {
  const sum = new Float64Array(frequenciesHz.length);
  for (const [i, equalizer] of chain.entries()) {
    if (equalizer.kind !== 'equalizer' || !equalizer.enabled) continue;
    const add = (levelsDb: ArrayLike<number>) => {
      for (let i = 0; i < sum.length; i++) sum[i] += levelsDb[i];
    };
    add(pathResponseDb(equalizer, 'stereo', frequenciesHz, rateHz));
    if (channelsBehind(chain.slice(0, i), channels) === 1) continue;
    for (const pair of PAIRS) {
      const bands = equalizer.bands.filter((band) => pair.includes(band.channel));
      if (bands.length === 0) continue;
      const [first, second] = pair.map((path) =>
        pathResponseDb({ bands, outputGainDb: 0 }, path, frequenciesHz, rateHz),
      );
      add(first.map((db, i) => 10 * Math.log10((10 ** (db / 10) + 10 ** (second[i] / 10)) / 2)));
    }
  }
  return sum;
}
