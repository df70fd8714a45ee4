import fc from 'fast-check';
import { BAND_TYPES, newBandSettings } from '../song/band';
import { parseBandPhrase } from './band-phrase';
import { bandSummary } from './typed-values';

test.each([
  ['tilt 1k +2', { type: 'tilt', frequencyHz: 1000, gainDb: 2 }],
  ['bell 2.5k -3', { type: 'bell', frequencyHz: 2500, gainDb: -3 }],
  ['Bell 2.5 kHz −3 dB Q 4', { type: 'bell', frequencyHz: 2500, gainDb: -3, q: 4 }],
  ['high-pass 120', { type: 'high-pass', frequencyHz: 120 }],
  ['cut lows 120 Hz', { type: 'high-pass', frequencyHz: 120 }],
  ['notch 50 Q 20', { type: 'notch', frequencyHz: 50, q: 20 }],
  ['low shelf A2 +2', { type: 'low-shelf', frequencyHz: 110, gainDb: 2 }],
])('the phrase %j is a band', (text, band) => expect(parseBandPhrase(text)).toEqual(band));

test.each([
  ['shelf 9k 4', { type: 'high-shelf', frequencyHz: 9000, gainDb: 4 }],
  ['shelf 120 −2', { type: 'low-shelf', frequencyHz: 120, gainDb: -2 }],
  ['bell C♯4 +48 ct -3 dB 0.5 oct', { type: 'bell', gainDb: -3 }],
  ['bell 285 Hz, −4.2 dB, 0.68 oct', { type: 'bell', frequencyHz: 285, gainDb: -4.2 }],
])('the phrase %j is what one would expect', (text, band) => expect(parseBandPhrase(text)).toMatchObject(band));

test.each([
  ['bell', 'Where? Write a frequency or a note: bell 2.5k, bell A4.'],
  ['bell loud', '“loud” is no frequency'],
  ['bell 2.5k loud', '“loud” is no gain'],
  ['bell 2.5k -3 wide', '“wide” is one figure too many'],
  ['bell 2.5k -3 q', '“q” is no width'],
  ['hp 120 17', '“17” is no slope'],
  ['notch 50 -3', 'has no gain'],
  ['tilt 700 2 q 3', 'has no width'],
])('of the phrase %j it is said what is wrong', (text, problem) =>
  expect(parseBandPhrase(text)).toMatchObject({ problem: expect.stringContaining(problem) }),
);
test.each(['', 'wah 300', 'belly 300'])('%j begins with no kind of band', (text) =>
  expect(parseBandPhrase(text)).toBeNull(),
);

test('what is said of a band can be typed to make it (seed 12)', () => {
  const hz = fc.double({ min: 20, max: 20000, noNaN: true });
  fc.assert(
    fc.property(fc.constantFrom(...BAND_TYPES.filter((type) => type !== 'twin-shelf')), hz, (type, frequencyHz) => {
      const band = newBandSettings(type, frequencyHz);
      const typed = parseBandPhrase(`${type} ${bandSummary(band)}`);
      expect(typed).toMatchObject({ type });
      expect((typed as { frequencyHz: number }).frequencyHz / frequencyHz).toBeCloseTo(1, 1);
    }),
    { seed: 12 },
  );
});
