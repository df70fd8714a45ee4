import { OrvidError } from '../errors';
import { designEqualizer, type EqualizerSettings } from './design';
import { designLinearPhase } from './linear-phase';

type Settings = EqualizerSettings & { phase: 'minimum' | 'linear' };

/**
 * What an equalizer makes of one sample of 1 on a mono signal; of linear phase, its middle in the middle.
 * @param frames how many samples of it
 * @throws OrvidError `invalid-input` where a response of linear phase is longer
 */
export function impulseResponse(equalizer: Settings, rateHz: number, frames: number): Float64Array {
  const samples = new Float64Array(frames);
  if (equalizer.phase === 'linear') {
    const { taps, leftToLeft } = designLinearPhase(equalizer, rateHz, 1);
    if (frames < taps)
      throw new OrvidError('invalid-input', `This response of linear phase needs at least ${taps} samples.`);
    samples.set(leftToLeft, Math.floor((frames - taps) / 2));
    return samples;
  }
  samples[0] = 1;
  // Direct form II, transposed.
  for (const { b0, b1, b2, a1, a2 } of designEqualizer(equalizer, rateHz)) {
    let [first, second] = [0, 0];
    for (let n = 0; n < frames; n++) {
      const sample = samples[n];
      const out = b0 * sample + first;
      first = b1 * sample - a1 * out + second;
      second = b2 * sample - a2 * out;
      samples[n] = out;
    }
  }
  return samples;
}

const SHORTEST_SECONDS = 0.1;
const LONGEST_SECONDS = 10;
const GONE_DB = -120;

/** How many samples hold the whole response of an equalizer: until what rings longest is 120 dB down, from 0.1 to 10 s. */
export function impulseFrames(equalizer: Settings, rateHz: number): number {
  if (equalizer.phase === 'linear') return designLinearPhase(equalizer, rateHz, 1).taps;
  const radius = ({ a1, a2 }: { a1: number; a2: number }) => {
    const split = a1 * a1 - 4 * a2;
    return split < 0 ? Math.sqrt(a2) : (Math.abs(a1) + Math.sqrt(split)) / 2;
  };
  const slowest = Math.max(0, ...designEqualizer(equalizer, rateHz).map(radius));
  const ringing = (GONE_DB / 20) * (Math.LN10 / Math.log(slowest));
  return Math.round(Math.min(LONGEST_SECONDS * rateHz, Math.max(SHORTEST_SECONDS * rateHz, ringing)));
}
