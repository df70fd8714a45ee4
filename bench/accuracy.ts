import { analogMagnitudeDb, designBand, logSpacedHz, magnitudeDb, prototype } from '@/core/filters';
import { newBandSettings, PASS_FAMILIES, type BandSettings } from '@/core/song';
import { table } from './support';

/** How closely the digital responses follow their analog prototypes at 48 kHz: the worst deviation where the prototype is above −40 dB. */
const RATE = 48000;

function worst(bands: readonly BandSettings[], topHz: number): number {
  let most = 0;
  for (const band of bands) {
    const sections = designBand(band, RATE);
    const analog = prototype(band);
    for (const hz of logSpacedHz(20, topHz, 300)) {
      const wanted = analogMagnitudeDb(analog, band.frequencyHz, hz);
      if (wanted > -40) most = Math.max(most, Math.abs(magnitudeDb(sections, hz, RATE) - wanted));
    }
  }
  return most;
}

const centers = Array.from({ length: 19 }, (_, i) => 1000 * (i + 1));
const each = (type: BandSettings['type'], settings: readonly Partial<BandSettings>[]) =>
  centers.flatMap((hz) => settings.map((one): BandSettings => ({ ...newBandSettings(type, hz), ...one })));
const qs = [0.5, 1, 2, 5, 10];
const groups: [string, BandSettings[]][] = [
  [
    'bells of ±12 dB, Q 0.5 to 10, 1 to 19 kHz',
    each(
      'bell',
      qs.flatMap((q) => [12, -12].map((gainDb) => ({ q, gainDb }))),
    ),
  ],
  ['low shelves of ±12 dB, 1 to 19 kHz', each('low-shelf', [{ gainDb: 12 }, { gainDb: -12 }])],
  ['high shelves of ±12 dB, 1 to 19 kHz', each('high-shelf', [{ gainDb: 12 }, { gainDb: -12 }])],
  [
    'notches, Q 0.5 to 10, 1 to 19 kHz',
    each(
      'notch',
      qs.map((q) => ({ q })),
    ),
  ],
  [
    'bells of ±18 dB, Q 0.1 to 20, 1 to 19 kHz',
    each(
      'bell',
      [0.1, ...qs, 20].flatMap((q) => [18, -18].map((gainDb) => ({ q, gainDb }))),
    ),
  ],
  ['tilts of ±12 dB, 1 to 19 kHz', each('tilt', [{ gainDb: 12 }, { gainDb: -12 }])],
  [
    'band-passes, Q 0.5 to 10, 1 to 19 kHz',
    each(
      'band-pass',
      qs.map((q) => ({ q })),
    ),
  ],
  ...PASS_FAMILIES.flatMap((family): [string, BandSettings[]][] => {
    const orders = [2, 4, 6, 8].map((order) => ({ family, order }));
    return [
      [`high-passes, ${family}, orders 2 to 8, 1 to 19 kHz`, each('high-pass', orders)],
      [`low-passes, ${family}, orders 2 to 8, 1 to 19 kHz`, each('low-pass', orders)],
    ];
  }),
];
console.log(`Worst deviation from the analog prototype at ${RATE / 1000} kHz, dB.\n`);
console.log(
  table([
    ['bands', 'up to 10 kHz', 'up to 20 kHz'],
    ...groups.map(([name, bands]) => [name, worst(bands, 10000).toFixed(3), worst(bands, 20000).toFixed(3)]),
  ]),
);
