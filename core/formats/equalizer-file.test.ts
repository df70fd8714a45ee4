import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { qFromBandwidth } from '../filters';
import { BAND_DEFAULTS, BAND_TYPES, hasGain, hasQ, isPassFilter, type BandSettings } from '../song';
import { equalizerJsonSchema, parseEqualizerFile, writeEqualizerFile } from './equalizer-file';

const file = (bands: object[], rest: object = {}) => JSON.stringify({ format: 'orvid.eq', version: 1, bands, ...rest });
const parse = (bands: object[], rest: object = {}) => parseEqualizerFile(file(bands, rest), 'vox.orvid-eq.json');

test('defaults are filled in; a width in octaves becomes Q', () => {
  const { bands, outputGainDb } = parse([
    { type: 'high-pass', frequencyHz: 120 },
    { type: 'bell', frequencyHz: 310, gainDb: -4, bandwidthOct: 1.5, note: 'boxy' },
  ]);
  expect(outputGainDb).toBe(0);
  expect(bands[0]).toEqual({ ...BAND_DEFAULTS, type: 'high-pass', frequencyHz: 120 });
  expect(bands[1]).toMatchObject({ q: qFromBandwidth(1.5), note: 'boxy', enabled: true });
});

test.each([
  ['content: is not JSON', 'no json'],
  ['format: expected "orvid.eq"', '{"version":1}'],
  ['format: expected "orvid.eq"', 'null'],
  ['version: expected 1, found 2', '{"format":"orvid.eq","version":2,"bands":[]}'],
  ['bands', '{"format":"orvid.eq","version":1}'],
  ['bands[0].type', file([{ type: 'wah', frequencyHz: 100 }])],
  ['bands[0].frequencyHz', file([{ type: 'bell' }])],
  ['bands[0].frequencyHz', file([{ type: 'bell', frequencyHz: 9 }])],
  [
    'bands[1].q',
    file([
      { type: 'bell', frequencyHz: 100 },
      { type: 'bell', frequencyHz: 100, q: 101 },
    ]),
  ],
  ['bands[0].gainDb: means nothing for a notch', file([{ type: 'notch', frequencyHz: 100, gainDb: 3 }])],
  ['bands[0].q: means nothing for a high-pass', file([{ type: 'high-pass', frequencyHz: 100, q: 3 }])],
  ['bands[0].rippleDb', file([{ type: 'low-pass', frequencyHz: 100, family: 'butterworth', rippleDb: 1 }])],
  ['bands[0].bandwidthOct: stands in place of q', file([{ type: 'bell', frequencyHz: 100, q: 1, bandwidthOct: 1 }])],
  ['bands[0].order: must be even', file([{ type: 'low-pass', frequencyHz: 100, family: 'linkwitz-riley', order: 3 }])],
  ['bands[0].order: must be 2 to 8', file([{ type: 'low-pass', frequencyHz: 100, family: 'resonant', order: 1 }])],
  [
    'bands[0].stopbandDb: must be at least 1 dB more',
    file([{ type: 'low-pass', frequencyHz: 100, family: 'elliptic', rippleDb: 12, stopbandDb: 10 }]),
  ],
  ['bands[0].limits', file([{ type: 'bell', frequencyHz: 100, limits: { minHz: 200, maxHz: 100 } }])],
  [
    "bands[0].frequencyHz: 100 lies outside the band's own limits",
    file([{ type: 'bell', frequencyHz: 100, limits: { minHz: 200, maxHz: 300 } }]),
  ],
  ['bands[0].note', file([{ type: 'bell', frequencyHz: 100, note: 'x'.repeat(501) }])],
])('refused, naming file and field: %s', (field, text) => {
  const refusal = expect(() => parseEqualizerFile(text, 'vox.orvid-eq.json'));
  refusal.toThrow(field);
  refusal.toThrow('vox.orvid-eq.json');
});

test('what is written is read again, the same (seed 5)', () => {
  const band = fc
    .record({
      type: fc.constantFrom(...BAND_TYPES),
      frequencyHz: fc.double({ min: 10, max: 30000, noNaN: true }),
      gainDb: fc.double({ min: -36, max: 36, noNaN: true }),
      q: fc.double({ min: 0.1, max: 100, noNaN: true }),
      order: fc.integer({ min: 1, max: 8 }),
      enabled: fc.boolean(),
      note: fc.string({ maxLength: 40 }),
    })
    .map((given): BandSettings => {
      const { gainDb, q, order, ...rest } = given;
      return {
        ...BAND_DEFAULTS,
        ...rest,
        ...(hasGain(given.type) && { gainDb }),
        ...(hasQ(given.type) && { q }),
        ...(isPassFilter(given.type) && { order }),
      };
    });
  const equalizer = fc.record({
    phase: fc.constantFrom('minimum' as const, 'linear' as const),
    bands: fc.array(band, { maxLength: 12 }),
    outputGainDb: fc.double({ min: -36, max: 36, noNaN: true }),
  });
  fc.assert(
    fc.property(equalizer, (drawn) => {
      expect(JSON.stringify(parseEqualizerFile(writeEqualizerFile(drawn), 'x'))).toBe(
        JSON.stringify({ phase: drawn.phase, outputGainDb: drawn.outputGainDb, bands: drawn.bands }),
      );
    }),
    { seed: 5, numRuns: 150 },
  );
});

test('no text makes the parser fail otherwise than by its own error (seed 6)', () => {
  fc.assert(
    fc.property(fc.jsonValue(), (value) => {
      const text = JSON.stringify({ format: 'orvid.eq', version: 1, bands: [value] });
      expect(() => parseEqualizerFile(text, 'x')).toThrow(expect.objectContaining({ code: 'invalid-input' }));
    }),
    { seed: 6, numRuns: 200 },
  );
});

test('the JSON Schema names the fields and their ranges', () => {
  const schema = equalizerJsonSchema() as {
    properties: { bands: { items: { properties: Record<string, { minimum: number; maximum: number }> } } };
  };
  expect(schema.properties.bands.items.properties.frequencyHz).toMatchObject({ minimum: 10, maximum: 30000 });
});

test('the published schema is the one that is derived today', () => {
  const published = JSON.parse(readFileSync('docs/schema/orvid-eq.schema.json', 'utf8'));
  expect(published).toEqual(JSON.parse(JSON.stringify(equalizerJsonSchema())));
});
