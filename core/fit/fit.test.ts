import { execFileSync } from 'node:child_process';
import { seededRandom } from '../formats';
import { parseSections, writeSections } from '../formats/sections-csv';
import { designEqualizer } from '../filters';
import { BAND_DEFAULTS, PASS_FAMILIES, type BandSettings } from '../song';
import { fitSections } from '.';

const RATE = 48000;
const through = (bands: BandSettings[], outputGainDb = 0, rateHz = RATE) =>
  fitSections(parseSections(writeSections(designEqualizer({ bands, outputGainDb }, rateHz)), 'x.csv'), rateHz);
const band = (changes: Partial<BandSettings>): BandSettings => ({
  ...BAND_DEFAULTS,
  type: 'bell',
  frequencyHz: 1000,
  ...changes,
});

test.each<[string, Partial<BandSettings>]>([
  ['a bell', { type: 'bell', frequencyHz: 310, gainDb: -4.5, q: 3.5 }],
  ['a narrow bell', { type: 'bell', frequencyHz: 2400, gainDb: 9, q: 18 }],
  ['a bell near the end', { type: 'bell', frequencyHz: 15000, gainDb: 6, q: 1 }],
  ['a low shelf', { type: 'low-shelf', frequencyHz: 180, gainDb: 5, q: 0.7071 }],
  ['a high shelf', { type: 'high-shelf', frequencyHz: 9000, gainDb: -7, q: 0.5 }],
  ['a notch', { type: 'notch', frequencyHz: 50, q: 20 }],
  ['a band-pass', { type: 'band-pass', frequencyHz: 900, q: 2 }],
  ['a tilt', { type: 'tilt', frequencyHz: 700, gainDb: 4 }],
  ['an all-pass', { type: 'all-pass', frequencyHz: 400, q: 1.5 }],
  ['a twin shelf', { type: 'twin-shelf', frequencyHz: 90, boostDb: 6, cutDb: 4, end: 'low' }],
])('%s comes back within 0.2 dB', (_, changes) => {
  const { bands, worstErrorDb } = through([band(changes)]);
  expect(worstErrorDb).toBeLessThan(0.2);
  if (changes.type !== 'twin-shelf') {
    expect(bands).toHaveLength(1);
    expect(bands[0].type).toBe(changes.type);
    expect(bands[0].frequencyHz / changes.frequencyHz!).toBeCloseTo(1, 2);
  }
});

describe.each(['high-pass', 'low-pass'] as const)('a %s', (type) => {
  test.each(PASS_FAMILIES.flatMap((family) => [2, 5].map((order) => [family, order] as const)))(
    'of family %s and order %d comes back within 0.2 dB',
    (family, order) => {
      if (family === 'linkwitz-riley' && order % 2 === 1) return;
      const made = band({ type, family, order, frequencyHz: 700, q: 2, rippleDb: 0.5, stopbandDb: 50 });
      const { bands, worstErrorDb } = through([made]);
      expect(worstErrorDb).toBeLessThan(0.2);
      expect(
        bands.map(({ type: found, frequencyHz, order: o, family: f }) => `${found} ${frequencyHz} ${f} ${o}`),
      ).toHaveLength(1);
    },
  );
});

test('equalizers of one to eight bands of any kind come back within 0.2 dB everywhere', () => {
  const random = seededRandom(15);
  const among = <T>(list: readonly T[]) => list[Math.floor(random() * list.length)];
  const between = (low: number, high: number) => low + random() * (high - low);
  const hertz = () => 2 ** between(Math.log2(40), Math.log2(14000));
  const anyBand = (): BandSettings => {
    const kind = among(['bell', 'bell', 'bell', 'low-shelf', 'high-shelf', 'notch', 'high-pass', 'low-pass'] as const);
    const family = among(['butterworth', 'linkwitz-riley', 'bessel', 'chebyshev-1'] as const);
    const order = family === 'linkwitz-riley' ? among([2, 4]) : among([1, 2, 3, 4]);
    return band({
      type: kind,
      frequencyHz: kind === 'high-pass' ? between(30, 300) : kind === 'low-pass' ? between(4000, 16000) : hertz(),
      gainDb: between(-12, 12),
      q: kind === 'bell' || kind === 'notch' ? between(0.4, 12) : between(0.4, 0.9),
      ...(kind.endsWith('pass') && { family: order === 1 ? 'butterworth' : family, order }),
    });
  };
  for (let count = 1; count <= 8; count++) {
    const made = Array.from({ length: count }, anyBand);
    const { bands, worstErrorDb } = through(made, count % 2 === 0 ? 0 : -3);
    expect({ made: worstErrorDb < 0.2 ? '' : JSON.stringify(made), worstErrorDb }).toMatchObject({ made: '' });
    expect(bands).toHaveLength(count);
  }
});

test('a low-pass near half of a lower rate is one band, with the sections that correct it', () => {
  const { bands, worstErrorDb } = through(
    [band({ type: 'low-pass', family: 'linkwitz-riley', order: 4, frequencyHz: 6900 })],
    -1,
    44100,
  );
  expect(worstErrorDb).toBeLessThan(0.2);
  expect(bands).toHaveLength(1);
});

test('low-passes beside each other, whose sections could be each other’s, come back within 0.2 dB', () => {
  const { worstErrorDb } = through(
    [
      band({ frequencyHz: 213, gainDb: -1.5, q: 1.75 }),
      band({ type: 'low-pass', family: 'bessel', order: 2, frequencyHz: 9925 }),
      band({ type: 'high-pass', family: 'chebyshev-1', order: 4, frequencyHz: 197 }),
      band({ type: 'low-pass', family: 'chebyshev-1', order: 4, frequencyHz: 11357 }),
      band({ type: 'low-pass', family: 'butterworth', order: 2, frequencyHz: 8452 }),
    ],
    -1,
    44100,
  );
  expect(worstErrorDb).toBeLessThan(0.2);
});

test('sections that scipy has designed become the filter that they are', () => {
  const program =
    'import scipy.signal as s\nfor r in s.butter(4, 120, "highpass", fs=48000, output="sos"): print(*r, sep=",")';
  const csv = execFileSync('/usr/bin/python3', ['-c', program], { encoding: 'utf8' });
  const { bands, worstErrorDb } = fitSections(parseSections(csv, 'scipy.csv'), RATE);
  expect(worstErrorDb).toBeLessThan(0.2);
  expect(bands).toHaveLength(1);
  expect(bands[0]).toMatchObject({ type: 'high-pass', family: 'butterworth', order: 4 });
  expect(bands[0].frequencyHz).toBeCloseTo(120, 0);
});

test('what bands one after the other leave is made up for together: a shelf that was taken for the other kind of shelf', () => {
  const made = [
    band({ type: 'low-shelf', frequencyHz: 298, gainDb: 1, q: 0.73 }),
    band({ type: 'high-shelf', frequencyHz: 2726, gainDb: 5.5, q: 0.72 }),
    band({ type: 'high-pass', family: 'butterworth', order: 1, frequencyHz: 256 }),
    band({ type: 'high-shelf', frequencyHz: 9774, gainDb: 1.9, q: 0.53 }),
    band({ frequencyHz: 95, gainDb: -6.9, q: 9.27 }),
    band({ type: 'notch', frequencyHz: 245, q: 8.97 }),
    band({ frequencyHz: 236, gainDb: 9.5, q: 1.35 }),
    band({ frequencyHz: 13944, gainDb: 7.5, q: 1.05 }),
  ];
  // 0.57 dB before they are moved together.
  expect(through(made, -1, 44100).worstErrorDb).toBeLessThan(0.2);
});

// R. Bristow-Johnson's bell by the bilinear transform, whose curve is cramped towards half of the rate as no band's here is.
test('sections of another kind of design become the bands that come nearest, and how far they stray is told', () => {
  const cookbook = (frequencyHz: number, gainDb: number, q: number, rateHz: number) => {
    const w = (2 * Math.PI * frequencyHz) / rateHz;
    const [a, alpha] = [10 ** (gainDb / 40), Math.sin(w) / (2 * q)];
    const a0 = 1 + alpha / a;
    return {
      b0: (1 + alpha * a) / a0,
      b1: (-2 * Math.cos(w)) / a0,
      b2: (1 - alpha * a) / a0,
      a1: (-2 * Math.cos(w)) / a0,
      a2: (1 - alpha / a) / a0,
    };
  };
  const { bands, worstErrorDb } = fitSections([cookbook(15000, 8, 0.7, 44100), cookbook(800, -5, 2, 44100)], 44100);
  expect(bands.map(({ type }) => type)).toEqual(['bell', 'bell']);
  expect(bands[1].frequencyHz).toBeCloseTo(800, -1);
  expect(worstErrorDb).toBeGreaterThan(0.2);
  expect(worstErrorDb).toBeLessThan(2.5);
});

test.each([
  ['1,2,3', 'six numbers'],
  ['1,0,0,0,0,0', 'a0 is 0'],
  ['1,0,0,1,x,0', 'no number'],
  ['1,0,0,1,-2.1,1.2', 'not stable'],
  ['b0,b1,b2,a0,a1,a2', 'no sections'],
])('what is no section is refused: %s', (text, words) => {
  expect(() => parseSections(text, 'x.csv')).toThrow(words);
});

test('sections are read in any dress: semicolons, names, remarks, a0 that is not 1', () => {
  const text = '# from elsewhere\r\nb0;b1;b2;a0;a1;a2\r\n2; 0.5; 0; 2; 0.2; 0.1\r\n';
  expect(parseSections(text, 'x.csv')).toEqual([{ b0: 1, b1: 0.25, b2: 0, a1: 0.1, a2: 0.05 }]);
});
