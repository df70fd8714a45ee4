import { designEqualizer, type Section } from '../filters';
import { newBandSettings, type BandSettings } from '../song';
import { Cascade, type KeyedSection } from './cascade';
import { fadingCascade } from './chain-stages';
import type { Processor } from './processor';
import fixture from './fixtures/filtered.json';
import { toStateVariable } from './state-variable';
import { playedSine, residueDb } from './testing/residue';

const RATE = 48000;
const keyed = (sections: readonly Section[], key = 's'): KeyedSection[] =>
  sections.map((section, i) => ({ key: `${key}${i}`, channel: 'stereo', ...toStateVariable(section) }));
const designed = (band: BandSettings, key = 's') =>
  keyed(designEqualizer({ bands: [band], outputGainDb: 0 }, RATE), key);

test('the kernel equals scipy.signal.sosfilt within −120 dB (fixtures/make_filtered.py)', () => {
  const sections = fixture.sos.map(([b0, b1, b2, a0, a1, a2]) => ({
    b0: b0 / a0,
    b1: b1 / a0,
    b2: b2 / a0,
    a1: a1 / a0,
    a2: a2 / a0,
  }));
  const cascade = new Cascade(keyed(sections), RATE);
  const left = Float64Array.from(fixture.input);
  const right = Float64Array.from(fixture.input);
  cascade.process(left, right, left.length);
  fixture.output.forEach((wanted, n) => expect(Math.abs(left[n] - wanted)).toBeLessThan(1e-9));
  expect(right).toEqual(left);
});

test('mono and stereo paths, and any cutting into blocks, give the same samples', () => {
  const sections = designed({ ...newBandSettings('bell', 900), gainDb: 9, q: 3 });
  const run = (stereo: boolean, block: number) => {
    const cascade = new Cascade(sections, RATE);
    const out: number[] = [];
    for (let at = 0; at < 600; at += block) {
      const left = Float64Array.from(fixture.input.slice(at, at + block));
      cascade.process(left, stereo ? left.slice() : null, left.length);
      out.push(...left);
    }
    return out;
  };
  const plain = run(false, 600);
  expect(run(true, 600)).toEqual(plain);
  expect(run(false, 128)).toEqual(plain);
  expect(run(true, 7)).toEqual(plain);
});

describe('what is left beside a sine while bands move', () => {
  const bell = (frequencyHz: number, gainDb: number, q = 1) =>
    designed({ ...newBandSettings('bell', frequencyHz), gainDb, q });
  const half = 32768;
  const moves: [string, KeyedSection[], KeyedSection[]][] = [
    ['a bell jumps from +6 to −12 dB', bell(1000, 6), bell(1000, -12)],
    ['a bell jumps by two octaves', bell(500, 9), bell(2000, 9)],
    ['a bell jumps in width', bell(1100, -9, 0.5), bell(1100, -9, 8)],
    ['a band is switched on', [], bell(900, 9)],
    ['a band is switched off', bell(900, 9), []],
    [
      'a high-pass rises from 20 to 400 Hz',
      designed(newBandSettings('high-pass', 20)),
      designed(newBandSettings('high-pass', 400)),
    ],
    [
      'a high-pass changes its order',
      designed({ ...newBandSettings('high-pass', 200), order: 2 }),
      designed({ ...newBandSettings('high-pass', 200), order: 8 }),
    ],
    ['a bell becomes a shelf', bell(800, 6), designed({ ...newBandSettings('high-shelf', 800), gainDb: 6 })],
    ['a notch appears beside the sine', [], designed(newBandSettings('notch', 1500))],
  ];
  const pass = (changes: Partial<BandSettings>) =>
    designed({ ...newBandSettings('low-pass', 2000), order: 4, ...changes });
  moves.push(
    ['a Bessel becomes an elliptic', pass({ family: 'bessel' }), pass({ family: 'elliptic' })],
    [
      'an elliptic’s corner falls by two octaves',
      pass({ family: 'elliptic', frequencyHz: 8000 }),
      pass({ family: 'elliptic' }),
    ],
    [
      'a Linkwitz-Riley changes from order 2 to 16',
      pass({ family: 'linkwitz-riley', order: 2 }),
      pass({ family: 'linkwitz-riley', order: 16 }),
    ],
    ['a resonance rises', pass({ family: 'resonant', q: 1 }), pass({ family: 'resonant', q: 8 })],
    [
      'a tilt turns over',
      designed({ ...newBandSettings('tilt', 1000), gainDb: 9 }),
      designed({ ...newBandSettings('tilt', 1000), gainDb: -9 }),
    ],
    ['an all-pass appears', [], designed(newBandSettings('all-pass', 1200))],
  );
  test.each(moves)('%s: below −80 dB', (_, start, end) => {
    expect(residueDb(playedSine(RATE, 1000, [{ at: half, sections: end }], start), RATE, 1000, 400)).toBeLessThan(-80);
  });

  test('a drag of sixty moves a second: below −80 dB', () => {
    const changes = Array.from({ length: 60 }, (_, i) => ({
      at: 6400 + i * 768,
      sections: designed({ ...newBandSettings('bell', 300 * 2 ** (i / 20)), gainDb: 9 * Math.sin(i / 9), q: 1 }),
    }));
    expect(residueDb(playedSine(RATE, 1000, changes, bell(300, 0)), RATE, 1000, 400)).toBeLessThan(-80);
  });

  test('the measure itself can fail: a step without easing is far above −80 dB', () => {
    const stepped = playedSine(RATE, 1000, [], []).map((value, n) => (n < half ? value : value * 0.5));
    expect(residueDb(stepped, RATE, 1000, 400)).toBeGreaterThan(-70);
  });
});

test('a cascade on a known way goes back to all that another change has taken away meanwhile', () => {
  const state = (still: number, moving: number, way: string): KeyedSection[] => [
    ...designed({ ...newBandSettings('bell', still), gainDb: 6 }, 'still'),
    ...designed({ ...newBandSettings('bell', moving), gainDb: 6 }, way),
  ];
  const [from, to] = [state(300, 2000, 'moving'), state(300, 4000, 'moving')];
  const heard = (cascade: Cascade) => {
    const samples = Float64Array.from({ length: 512 }, (_, n) => (n === 0 ? 1 : 0));
    cascade.reset();
    cascade.process(samples, null, 512);
    return samples;
  };
  const cascade = new Cascade(from, RATE);
  const go = (share: number) => cascade.moveTo({ from, to, share, immediately: true });
  go(0.5);
  cascade.easeTo(state(900, 3000, 'moving'));
  while (cascade.isEasing) cascade.process(new Float64Array(512), null, 512);
  go(1);
  expect(heard(cascade)).toEqual(heard(new Cascade(to, RATE)));
  // What is no state of its own is left alone.
  cascade.moveTo({ from: state(900, 3000, 'other'), to, share: 0, immediately: true });
  expect(heard(cascade)).toEqual(heard(new Cascade(to, RATE)));
});

test('a cascade that has moved comes to rest exactly on its target', () => {
  const bell = (hz: number, gainDb: number) => designed({ ...newBandSettings('bell', hz), gainDb });
  const cascade = new Cascade(bell(500, 6), RATE);
  expect(cascade.canEaseTo(bell(700, -6))).toBe(true);
  cascade.easeTo(bell(700, -6));
  const silence = new Float64Array(128);
  for (let i = 0; i < 200; i++) cascade.process(silence, null, 128);
  expect(cascade.isEasing).toBe(false);
  const fresh = new Cascade(bell(700, -6), RATE);
  const impulses = [cascade, fresh].map((processor) => {
    const impulse = Float64Array.from({ length: 256 }, (_, n) => (n === 0 ? 1 : 0));
    processor.reset();
    processor.process(impulse, null, 256);
    return impulse;
  });
  expect(impulses[0]).toEqual(impulses[1]);
});

describe('the order of the sections', () => {
  const shelf = (gainDb: number, channel: BandSettings['channel'], key: string): KeyedSection[] =>
    designed({ ...newBandSettings('low-shelf', 1000), gainDb }, key).map((section) => ({
      ...section,
      channel,
    }));
  const OF_LEFT = shelf(12, 'left', 'l');
  const OF_MID = shelf(-12, 'mid', 'm');
  const OF_ALL = shelf(3, 'stereo', 'a');

  /** Levels of left and right, dB, of 100 Hz on both, once everything rests. */
  function levels(cascade: Processor<readonly KeyedSection[]>): number[] {
    const tone = Float64Array.from({ length: 48000 }, (_, n) => 0.1 * Math.sin((2 * Math.PI * 100 * n) / RATE));
    const sides = [tone, tone.slice()];
    cascade.process(sides[0], sides[1], tone.length);
    return sides.map((side) => 20 * Math.log10(Math.max(...side.subarray(40000)) / 0.1));
  }
  /** What a new cascade gives: a render does. */
  function rendered(sections: KeyedSection[]): number[] {
    return levels(new Cascade(sections, RATE));
  }

  test.each<[string, KeyedSection[][]]>([
    ['the first was off and on', [[...OF_LEFT, ...OF_MID], OF_MID, [...OF_LEFT, ...OF_MID]]],
    ['the first came later', [OF_MID, [...OF_LEFT, ...OF_MID]]],
    [
      'one in the middle came back',
      [
        [...OF_LEFT, ...OF_ALL, ...OF_MID],
        [...OF_LEFT, ...OF_MID],
        [...OF_LEFT, ...OF_ALL, ...OF_MID],
      ],
    ],
    [
      'they have changed places',
      [
        [...OF_LEFT, ...OF_MID],
        [...OF_MID, ...OF_LEFT],
      ],
    ],
    [
      'they have changed places there and back',
      [
        [...OF_LEFT, ...OF_MID, ...OF_ALL],
        [...OF_ALL, ...OF_MID, ...OF_LEFT],
        [...OF_LEFT, ...OF_MID, ...OF_ALL],
      ],
    ],
  ])('is the song’s, whatever came before: %s', (_, states) => {
    const cascade = fadingCascade(states[0], RATE);
    for (const sections of states) {
      cascade.easeTo(sections);
      levels(cascade);
    }
    const wanted = rendered(states.at(-1)!);
    levels(cascade).forEach((level, side) => expect(level).toBeCloseTo(wanted[side], 3));
  });

  test('left before mid is not mid before left: +6.45 dB and 0 dB on the left', () => {
    const left = (sections: KeyedSection[]) => rendered(sections)[0];
    expect(Math.abs(left([...OF_LEFT, ...OF_MID]) - left([...OF_MID, ...OF_LEFT]))).toBeGreaterThan(3);
  });
});
