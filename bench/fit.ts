import { designEqualizer } from '@/core/filters';
import { fitSections } from '@/core/fit';
import { seededRandom } from '@/core/formats';
import { BAND_DEFAULTS, type BandSettings } from '@/core/song';
import { median, table } from './support';

/** How exactly equalizers of one to eight bands come back from their sections, by seed, at three rates, and how long that takes. */
const RATES = [44100, 48000, 96000];
const EACH = 3;
const random = seededRandom(15);
const among = <T>(list: readonly T[]) => list[Math.floor(random() * list.length)];
const between = (low: number, high: number) => low + random() * (high - low);

function anyBand(): BandSettings {
  const type = among(['bell', 'bell', 'bell', 'low-shelf', 'high-shelf', 'notch', 'high-pass', 'low-pass'] as const);
  const family = among(['butterworth', 'linkwitz-riley', 'bessel', 'chebyshev-1'] as const);
  const order = family === 'linkwitz-riley' ? among([2, 4]) : among([1, 2, 3, 4]);
  const isSharp = type === 'bell' || type === 'notch';
  return {
    ...BAND_DEFAULTS,
    type,
    frequencyHz:
      type === 'high-pass' ? between(30, 300) : type === 'low-pass' ? between(4000, 16000) : 2 ** between(5.3, 13.8),
    gainDb: between(-12, 12),
    q: isSharp ? between(0.4, 12) : between(0.4, 0.9),
    ...(type.endsWith('pass') && { family: order === 1 ? 'butterworth' : family, order }),
  };
}

const rows = Array.from({ length: 8 }, (_, i) => {
  const count = i + 1;
  const made = RATES.flatMap((rateHz) =>
    Array.from({ length: EACH }, () => {
      const bands = Array.from({ length: count }, anyBand);
      const sections = designEqualizer({ bands, outputGainDb: -1 }, rateHz);
      const started = performance.now();
      const fitted = fitSections(sections, rateHz);
      return { ...fitted, isCount: fitted.bands.length === count, seconds: (performance.now() - started) / 1000 };
    }),
  );
  return [
    String(count),
    Math.max(...made.map(({ worstErrorDb }) => worstErrorDb)).toFixed(3),
    `${made.filter(({ isCount }) => isCount).length} of ${made.length}`,
    median(made.map(({ seconds }) => seconds)).toFixed(2),
    Math.max(...made.map(({ seconds }) => seconds)).toFixed(1),
  ];
});
console.log(table([['bands', 'strays at most, dB', 'as many bands', 's, median', 's, most'], ...rows]));
