import { writeFileSync } from 'node:fs';
import { format } from 'prettier';
import type { KeyedSection } from '@/core/engine';
import { equalizerSections } from '@/core/engine';
import { playedSine, residueDb } from '@/core/engine/testing/residue';
import {
  analogMagnitudeDb,
  designBand,
  logSpacedHz,
  magnitudeDb,
  ORDERS,
  prototype,
  type AnalogSection,
  type Section,
} from '@/core/filters';
import { matchSection } from '@/core/filters/match';
import { firstMatch } from '@/core/filters/match/closed-form';
import { newBandSettings, PASS_FAMILIES, type BandSettings } from '@/core/song';
import { table } from './support';

/**
 * How closely the filters follow their analog prototypes, by which method, and what is left beside a sine while they move. Writes
 * docs/filters-measured.md.
 */
const RATES = [44100, 48000, 88200, 96000, 192000];
const centers = Array.from({ length: 19 }, (_, i) => 1000 * (i + 1));

type Shape = Partial<BandSettings>;
const each = (type: BandSettings['type'], shapes: readonly Shape[]) =>
  centers.flatMap((hz) => shapes.map((shape): BandSettings => ({ ...newBandSettings(type, hz), ...shape })));
const times = <A, B>(first: readonly A[], second: readonly B[]) =>
  first.flatMap((a) => second.map((b) => ({ ...a, ...b })));
const gains = (...list: number[]) => list.flatMap((gainDb) => [{ gainDb }, { gainDb: -gainDb }]);
const qs = (...list: number[]) => list.map((q) => ({ q }));

/** Worst deviation where the prototype is above −40 dB, dB. */
function worst(bands: readonly BandSettings[], rateHz: number, topHz: number, design = designBand): number {
  let most = 0;
  const frequencies = logSpacedHz(20, Math.min(topHz, 0.48 * rateHz), 240);
  for (const band of bands) {
    const sections = design(band, rateHz);
    const analog = prototype(band);
    for (const hz of frequencies) {
      const wanted = analogMagnitudeDb(analog, band.frequencyHz, hz);
      if (wanted > -40) most = Math.max(most, Math.abs(magnitudeDb(sections, hz, rateHz) - wanted));
    }
  }
  return most;
}

/** The plain bilinear transform, exact at the band's frequency. Source: Audio EQ Cookbook. */
function bilinear({ numerator, denominator }: AnalogSection, frequencyHz: number, rateHz: number): Section {
  const k = 1 / Math.tan((Math.PI * frequencyHz) / rateHz);
  const polynomial = ([c0, c1, c2]: readonly number[]) => [
    c0 + c1 * k + c2 * k * k,
    2 * (c0 - c2 * k * k),
    c0 - c1 * k + c2 * k * k,
  ];
  const [b, a] = [polynomial(numerator), polynomial(denominator)];
  return { b0: b[0] / a[0], b1: b[1] / a[0], b2: b[2] / a[0], a1: a[1] / a[0], a2: a[2] / a[0] };
}

const methods: [string, typeof designBand][] = [
  [
    'plain bilinear transform',
    (band, rateHz) => prototype(band).map((section) => bilinear(section, band.frequencyHz, rateHz)),
  ],
  [
    'closed-form match (poles e^(sT), numerator by linear equations)',
    (band, rateHz) => prototype(band).map((section) => firstMatch(section, band.frequencyHz, rateHz, false)),
  ],
  [
    'equal-ripple fit of each section by itself',
    (band, rateHz) => prototype(band).map((section) => matchSection(section, band.frequencyHz, rateHz, false).section),
  ],
  ['equal-ripple fit, with a correcting section where it is needed: what runs', designBand],
];
const compared: [string, BandSettings[]][] = [
  ['bells, ±12 dB, Q 0.5 to 10', each('bell', times(gains(12), qs(0.5, 1, 2, 5, 10)))],
  ['high shelves, ±12 dB', each('high-shelf', gains(12))],
  ['high-passes, Butterworth, orders 2 to 8', each('high-pass', [{ order: 2 }, { order: 4 }, { order: 8 }])],
  ['low-passes, Butterworth, orders 2 to 8', each('low-pass', [{ order: 2 }, { order: 4 }, { order: 8 }])],
];

const groups: [string, BandSettings[]][] = [
  ['bells, ±18 dB, Q 0.1 to 20', each('bell', times(gains(6, 18), qs(0.1, 0.5, 1, 3, 10, 20)))],
  ['low shelves, ±18 dB, Q 0.3 to 2', each('low-shelf', times(gains(18), qs(0.3, 0.7071, 2)))],
  ['high shelves, ±18 dB, Q 0.3 to 2', each('high-shelf', times(gains(18), qs(0.3, 0.7071, 2)))],
  ['tilts, ±18 dB', each('tilt', gains(18))],
  ['notches, Q 0.5 to 20', each('notch', qs(0.5, 2, 8, 20))],
  ['band-passes, Q 0.5 to 20', each('band-pass', qs(0.5, 2, 8, 20))],
  [
    'twin shelves, 18 dB',
    each('twin-shelf', times([{ boostDb: 18, cutDb: 18 }], [{ end: 'low' as const }, { end: 'high' as const }])),
  ],
  ...PASS_FAMILIES.flatMap((family): [string, BandSettings[]][] =>
    (['high-pass', 'low-pass'] as const).map((type) => {
      const { min, max } = ORDERS[family];
      const orders = [min, 3, 4, 8, 12, 16].filter(
        (order) => order <= max && (family !== 'linkwitz-riley' || order % 2 === 0),
      );
      return [
        `${type}es, ${family}, orders ${Math.min(...orders)} to ${Math.max(...orders)}`,
        each(
          type,
          orders.map((order) => ({ family, order })),
        ),
      ];
    }),
  ),
];

const digits = (db: number) => (db < 10 ? db.toFixed(3) : db.toFixed(1));
const methodRows = compared.flatMap(([name, bands]) =>
  methods.map(([method, design], i) => [
    i === 0 ? name : '',
    method,
    digits(worst(bands, 48000, 10000, design)),
    digits(worst(bands, 48000, 20000, design)),
  ]),
);
const rateRows = groups.map(([name, bands]) => [
  name,
  ...RATES.map((rateHz) => `${digits(worst(bands, rateHz, 10000))} / ${digits(worst(bands, rateHz, 20000))}`),
]);

/** Residue beside a sine of 1 kHz, everything farther than 400 Hz from it, dB, while a band goes through some states, 60 a second. */
function residue(states: readonly BandSettings[]): number {
  const rateHz = 48000;
  const sectionsOf = (band: BandSettings): KeyedSection[] =>
    equalizerSections({ bands: [band], outputGainDb: 0 }, rateHz, 1);
  const changes = states.slice(1).map((band, i) => ({ at: 25600 + i * 768, sections: sectionsOf(band) }));
  return residueDb(playedSine(rateHz, 1000, changes, sectionsOf(states[0])), rateHz, 1000, 400);
}
/** Two octaves up through the sine in 100 ms. */
const swept = (shape: Shape & Pick<BandSettings, 'type'>) =>
  residue(
    Array.from({ length: 7 }, (_, i) => ({
      ...newBandSettings(shape.type, 1000),
      ...shape,
      frequencyHz: 500 * 4 ** (i / 6),
    })),
  );
const switched = (...shapes: (Shape & Pick<BandSettings, 'type'>)[]) =>
  residue(shapes.map((shape) => ({ ...newBandSettings(shape.type, 2000), ...shape })));

const sweepRows: [string, number][] = [
  ['bell, +12 dB, Q 1', swept({ type: 'bell', gainDb: 12 })],
  ['bell, −18 dB, Q 8', swept({ type: 'bell', gainDb: -18, q: 8 })],
  ['low shelf, +12 dB', swept({ type: 'low-shelf', gainDb: 12 })],
  ['high shelf, −12 dB', swept({ type: 'high-shelf', gainDb: -12 })],
  ['tilt, +12 dB', swept({ type: 'tilt', gainDb: 12 })],
  ['notch, Q 2', swept({ type: 'notch', q: 2 })],
  ['band-pass, Q 1', swept({ type: 'band-pass', q: 1 })],
  ['all-pass, Q 0.7', swept({ type: 'all-pass' })],
  ['twin shelf, 9 dB', swept({ type: 'twin-shelf', boostDb: 9, cutDb: 9 })],
  ...PASS_FAMILIES.flatMap((family): [string, number][] => [
    [`low-pass, ${family}, order 4`, swept({ type: 'low-pass', family, order: 4 })],
    [`high-pass, ${family}, order 4`, swept({ type: 'high-pass', family, order: 4 })],
  ]),
];
const low = (changes: Shape) => ({ type: 'low-pass' as const, ...changes });
const switchRows: [string, number][] = [
  ['low-pass at 2 kHz, orders 2, 4, 8, 16', switched(...[2, 4, 8, 16].map((order) => low({ order })))],
  [
    'low-pass at 2 kHz, order 4, through all families',
    switched(...PASS_FAMILIES.map((family) => low({ family, order: 4 }))),
  ],
  [
    'bell, shelf, notch, tilt at 2 kHz',
    switched(
      { type: 'bell', gainDb: 9 },
      { type: 'high-shelf', gainDb: 9 },
      { type: 'notch' },
      { type: 'tilt', gainDb: 6 },
    ),
  ],
];

const text = `# The filters, measured

Made by \`npm run bench -- filters\`; nothing here is written by hand.

## Methods

Worst deviation from the analog prototype where that is above −40 dB, centres and corners from 1 to 19 kHz, at 48 kHz, dB.

${table([['bands', 'method', 'up to 10 kHz', 'up to 20 kHz'], ...methodRows])}

## What runs, at every rate

The same, up to 10 kHz / up to 20 kHz.

${table([['bands', ...RATES.map((rate) => `${rate / 1000} kHz`)], ...rateRows])}

Where a figure is large it comes from single steep filters whose corner lies in the highest octave at the lower rates: Chebyshev's of the first
type from order 8 on above all.

## What is left beside a sine

A sine of 1 kHz; everything farther than 400 Hz from it, in dB of the sine, while the corner is swept from 500 Hz to 2 kHz in 100 ms, by sixty moves
a second, in a 4-term Blackman-Harris window of 65536 samples.

${table([['band', 'residue, dB'], ...sweepRows.map(([name, db]) => [name, db.toFixed(1)])])}

While kinds, orders and families are switched, sixty a second:

${table([['switched', 'residue, dB'], ...switchRows.map(([name, db]) => [name, db.toFixed(1)])])}
`;
writeFileSync('docs/filters-measured.md', await format(text, { parser: 'markdown', printWidth: 120 }));
console.log(text);
