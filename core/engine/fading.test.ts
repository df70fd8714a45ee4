import { ORDERS } from '../filters';
import { seededRandom } from '../formats';
import { BAND_TYPES, newBandSettings, PASS_FAMILIES, type BandSettings } from '../song';
import { fadingCascade } from './chain-stages';
import { equalizerSections } from './compile-chain';

const RATE = 48000;
const RUN_UP = 16384;
const LENGTH = RUN_UP + 12288;

/** Pink noise, peak −7 dBFS: white noise through the "economy" filter of P. Kellet, published on musicdsp.org, 1999 (from memory). */
const pink = (() => {
  const random = seededRandom(5);
  let [a, b, c] = [0, 0, 0];
  const noise = Float64Array.from({ length: LENGTH }, () => {
    const white = random() - 0.5;
    a = 0.99765 * a + white * 0.099046;
    b = 0.963 * b + white * 0.2965164;
    c = 0.57 * c + white * 1.0526913;
    return a + b + c + white * 0.1848;
  });
  const peak = noise.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
  return noise.map((value) => (value * 10 ** (-7 / 20)) / peak);
})();

const sectionsOf = (band: BandSettings | null) =>
  equalizerSections({ bands: band ? [{ ...band, id: 'b' }] : [], outputGainDb: 0 }, RATE, 1);

/** Every type, and every family at its lowest, a middle and its highest order, low and high, with the steepest settings. */
const states: (BandSettings | null)[] = [
  null,
  ...BAND_TYPES.flatMap((type) =>
    [200, 12000].flatMap((hz): BandSettings[] => {
      const band = { ...newBandSettings(type, hz), gainDb: 12, boostDb: 9, cutDb: 9 };
      if (type !== 'high-pass' && type !== 'low-pass') return [band, { ...band, q: 20, gainDb: -12 }];
      return PASS_FAMILIES.flatMap((family) => {
        const { min, max } = ORDERS[family];
        return [min, Math.min(max, 6), max].map((order) => ({
          ...band,
          family,
          order,
          rippleDb: 3,
          stopbandDb: 40,
          q: 8,
        }));
      });
    }),
  ),
];

const peakOf = (samples: Float64Array) => samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);

/** The noise through a band that becomes another one, from the change on. */
function switched(from: BandSettings | null, to: BandSettings | null): Float64Array {
  const cascade = fadingCascade(sectionsOf(from), RATE);
  const samples = pink.slice();
  cascade.process(samples.subarray(0, RUN_UP), null, RUN_UP);
  cascade.easeTo(sectionsOf(to));
  for (let at = RUN_UP; at < LENGTH; at += 128) cascade.process(samples.subarray(at, at + 128), null, 128);
  return samples.subarray(RUN_UP);
}

const rested = new Map(states.map((state) => [state, peakOf(switched(state, state))]));

const name = (band: BandSettings | null) =>
  band
    ? `${band.type} ${band.family} ${band.order}, ${band.frequencyHz.toFixed(0)} Hz, Q ${band.q.toFixed(1)}, ${band.gainDb} dB, ripple ${band.rippleDb}, ${band.stopbandDb} down`
    : 'nothing';

/** What is too loud of some changes. */
const tooLoud = (pairs: readonly (readonly [BandSettings | null, BandSettings | null])[]) =>
  pairs.flatMap(([from, to]) => {
    const ends = [from, to].map((end) => rested.get(end) ?? peakOf(switched(end, end)));
    const db = 20 * Math.log10(peakOf(switched(from, to)) / Math.max(...ends));
    return db > 1 ? [`${db.toFixed(1)} dB from ${name(from)} to ${name(to)}`] : [];
  });

test('a switch from anything to anything is nowhere more than 1 dB above the louder of the two', () => {
  const random = seededRandom(20);
  const pick = () => states[Math.floor(random() * states.length)];
  const pairs = process.env.ORVID_ALL_SWITCHES
    ? states.flatMap((from) => states.map((to) => [from, to] as const))
    : Array.from({ length: 400 }, () => [pick(), pick()] as const);
  expect(tooLoud(pairs)).toEqual([]);
});

test('nor is a move of one filter, far or near', () => {
  const random = seededRandom(21);
  const between = (low: number, high: number) => low * (high / low) ** random();
  const pairs = Array.from({ length: process.env.ORVID_ALL_SWITCHES ? 5000 : 200 }, () => {
    const from = states[1 + Math.floor(random() * (states.length - 1))]!;
    const change: Partial<BandSettings>[] = [
      { frequencyHz: from.frequencyHz * between(1 / 1.5, 1.5) },
      { frequencyHz: between(20, 20000) },
      { q: between(0.1, 40) },
      { gainDb: -18 + 36 * random() },
      { rippleDb: between(0.01, 12), stopbandDb: between(20, 120) },
    ];
    return [from, { ...from, ...change[Math.floor(random() * change.length)] }] as const;
  });
  expect(tooLoud(pairs)).toEqual([]);
});
