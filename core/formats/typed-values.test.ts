import fc from 'fast-check';
import { BAND_DEFAULTS } from '../song';
import * as typed from './typed-values';

const { Nearest, possible } = typed;

test.each([
  ['440', 440],
  ['440 Hz', 440],
  ['2.5k', 2500],
  ['2,5 kHz', 2500],
  ['A4', 440],
  ['a3', 220],
  ['C4', 261.6256],
  ['c#3', 138.5913],
  ['Db3', 138.5913],
  ['0.5k', 500],
  ['2k5', 2500],
  ['2k5 Hz', 2500],
  ['2,500', 2500],
  ['12 500 Hz', 12500],
  ["1'000", 1000],
  ['20,5', 20.5],
  ['2,500 kHz', 2500],
  ['10', 10],
])('frequency %s is %f Hz', (text, hz) => expect(typed.parseFrequency(text)).toBeCloseTo(hz, 3));

test.each([
  ['A4+20', 440 * 2 ** (20 / 1200)],
  ['C♯4 +48 ct', 277.183 * 2 ** (48 / 1200)],
  ['c4 − 50 cents', 261.626 * 2 ** (-50 / 1200)],
  // Speed of sound 343 m/s.
  ['1.2 m', 343 / 1.2],
  ['34 cm', 343 / 0.34],
  ['285 Hz · C♯4 +48 ct · 1.2 m', 285],
])('the page’s own text %j is a frequency', (text, hz) =>
  expect(possible(typed.parseFrequency(text))! / hz).toBeCloseTo(1, 4),
);
test.each(['', 'k', 'abc', 'H4', '-100', '0', '1e3', '4 4 0', '2.5kk', '5', '0,500', '2,50,0', '1,0000', '2k5k'])(
  'frequency %j cannot be read',
  (text) => expect(typed.parseFrequency(text)).toBeNull(),
);

test.each([
  ['-3', -3],
  ['−3,5 dB', -3.5],
  ['+2.5', 2.5],
  ['36', 36],
  ['3db', 3],
])('gain %s is %f dB', (text, db) => expect(typed.parseGain(text, { min: -36, max: 36 })).toBe(db));

test.each([
  ['1 oct', Math.SQRT2],
  ['1', Math.SQRT2],
  ['0.5 octaves', 2.8713],
  ['Q 2.1', 2.1],
  ['q=0.7', 0.7],
  ['4 Q', 4],
  ['Q 100', 100],
])('width %s is Q %f', (text, q) => expect(typed.parseWidth(text)).toBeCloseTo(q, 3));
test.each(['', '0', '-1', 'wide', 'Q'])('width %j cannot be read', (text) => expect(typed.parseWidth(text)).toBeNull());

test.each([
  ['4', 4],
  ['Q 0.5', 0.5],
  ['100', 100],
])('resonance %s is Q %f', (text, q) => expect(typed.parseQ(text)).toBe(q));

test.each([
  ['18', 3],
  ['18 dB/oct', 3],
  ['48 dB', 8],
  ['order 5', 5],
  ['5. order', 5],
  ['96', 16],
])('slope %s is order %i', (text, order) => expect(typed.parseSlope(text, 'butterworth')).toBe(order));
test.each(['17', '0', 'steep', '-6'])('slope %j cannot be read', (text) =>
  expect(typed.parseSlope(text, 'butterworth')).toBeNull(),
);

test.each([
  ['L 30', -0.3],
  ['r100', 1],
  ['50 l', -0.5],
  ['C', 0],
])('position %s is %f', (text, pan) => expect(typed.parsePan(text)).toBe(pan));
test.each(['', '30', 'X 3', 'L'])('position %j cannot be read', (text) => expect(typed.parsePan(text)).toBeNull());

test.each([
  ['99k as a frequency', typed.parseFrequency('99k'), 30000],
  ['+37 dB as a gain', typed.parseGain('+37', { min: -36, max: 36 }), 36],
  ['−40 dB as a gain', typed.parseGain('−40', { min: -36, max: 36 }), -36],
  ['Q 1000 as a width', typed.parseWidth('Q 1000'), 100],
  ['1000 as a resonance', typed.parseQ('1000'), 100],
  ['1 as a resonance of 2 and more', typed.parseQ('1', { min: 2, max: 24 }), 2],
  ['102 dB/oct', typed.parseSlope('102', 'butterworth'), 16],
  // Two filters of the same order after one another: 12 dB/oct at least, in steps of 12.
  ['18 dB/oct where orders are even', typed.parseSlope('18', 'linkwitz-riley'), 4],
  ['R 250 as a position', typed.parsePan('R 250'), 1],
  ['L 250 as a position', typed.parsePan('L 250'), -1],
  ['900 ms as a delay', typed.parseDelay('900', 48000, { min: -100, max: 100 }), 100],
  ['-900 ms as a delay', typed.parseDelay('-900 ms', 48000, { min: -100, max: 100 }), -100],
])('what is beyond the range is marked as the nearest there is: %s', (_, found, nearest) =>
  expect(found).toEqual(new Nearest(nearest)),
);

test('something else made of a typed value keeps what it is: a value, the nearest one, or nothing', () => {
  const twice = (value: number) => 2 * value;
  expect(typed.mapTyped(3, twice)).toBe(6);
  expect(typed.mapTyped(new Nearest(3), twice)).toEqual(new Nearest(6));
  expect(typed.mapTyped(null, twice)).toBeNull();
});

test.each([
  [typed.writeFrequency(104.4), '104 Hz'],
  [typed.writeFrequency(52.34), '52.3 Hz'],
  [typed.writeFrequency(3100), '3.10 kHz'],
  [typed.writeGain(-4.25), '−4.3 dB'],
  [typed.writeGain(2.6), '+2.6 dB'],
  [typed.writeGain(-0.01), '0.0 dB'],
  [typed.writeNumber(-18.3), '−18.3'],
  [typed.writeWidth(2.1), '0.68 oct'],
  [typed.writeSlope(3), '18 dB/oct'],
  [typed.writePan(-0.3), 'L 30'],
  [typed.writePan(0), 'C'],
  // ISO 16; speed of sound 343 m/s.
  [typed.writeNote(285), 'C♯4 +48 ct'],
  [typed.writeWavelength(285), '1.2 m'],
  [typed.writeWavelength(30), '11.4 m'],
  [typed.writeWavelength(1000), '34 cm'],
  [typed.writeTime(72.46), '1:12.4'],
  [typed.writeLength(185.4), '3:05'],
  [
    typed.bandSummary({ ...BAND_DEFAULTS, type: 'bell', frequencyHz: 285, gainDb: -4.2, q: 2.1 }),
    '285 Hz, −4.2 dB, 0.68 oct',
  ],
  [typed.bandSummary({ ...BAND_DEFAULTS, type: 'high-pass', frequencyHz: 104, order: 3 }), '104 Hz, 18 dB/oct'],
])('it is written as it should be: %s', (text, wanted) => expect(text).toBe(wanted));

test('what is written can be typed again (seed 9)', () => {
  const hz = fc.double({ min: 10, max: 30000, noNaN: true });
  const db = fc.double({ min: -36, max: 36, noNaN: true });
  const q = fc.double({ min: 0.2, max: 20, noNaN: true });
  const pan = fc.double({ min: -1, max: 1, noNaN: true });
  fc.assert(
    fc.property(hz, db, q, pan, (frequencyHz, gainDb, width, place) => {
      expect(
        Math.abs(Math.log2(possible(typed.parseFrequency(typed.writeFrequency(frequencyHz)))! / frequencyHz)),
      ).toBeLessThan(0.011);
      expect(
        Math.abs(possible(typed.parseGain(typed.writeGain(gainDb), { min: -36, max: 36 }))! - gainDb),
      ).toBeLessThan(0.051);
      expect(typed.writeWidth(possible(typed.parseWidth(typed.writeWidth(width)))!)).toBe(typed.writeWidth(width));
      expect(Math.abs(possible(typed.parsePan(typed.writePan(place)))! - place)).toBeLessThan(0.0051);
    }),
    { seed: 9, numRuns: 300 },
  );
});

// 343 m/s at 20 °C: half a metre of air is 1.46 ms.
test.each([
  ['1.42', 1.42],
  ['1,42 ms', 1.42],
  ['−48 samples', -1],
  ['24 spl', 0.5],
  ['0.5 m', 1.458],
  ['34 cm', 0.991],
  ['later', null],
  ['', null],
])('%s as a delay', (text, ms) => {
  const found = typed.parseDelay(text, 48000, { min: -100, max: 100 });
  if (ms === null) expect(found).toBeNull();
  else expect(found).toBeCloseTo(ms, 2);
});

test('a delay as it is written is read as it was, to a hundredth', () => {
  for (const ms of [0, 0.031, -0.5, 1.417, -99.99])
    expect(typed.parseDelay(typed.writeDelay(ms), 48000, { min: -100, max: 100 })).toBeCloseTo(ms, 2);
});

test.each([
  ['1:05.25', 65.25],
  ['65,25 s', 65.25],
  ['0:00.5', 0.5],
  ['−2', -2],
  ['1:2:3', null],
  ['soon', null],
])('“%s” is a time of %s seconds', (text, seconds) => expect(typed.parseSeconds(text)).toBe(seconds));

test('times are written to the millisecond, and read as they are written', () => {
  for (const seconds of [0, 0.25, 59.9994, 65.25, 3600, -1.5])
    expect(typed.parseSeconds(typed.writeMoment(seconds))).toBeCloseTo(seconds, 3);
  expect(typed.writeMoment(65.25)).toBe('1:05.250');
});
