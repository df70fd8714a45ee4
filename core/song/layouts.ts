import { BAND_DEFAULTS, type BandSettings } from './band';

/** A set of bands whose places are fixed or fenced, as on a desk. */
export interface Layout {
  id: string;
  name: string;
  what: string;
  bands: readonly BandSettings[];
}

type Shape = Partial<BandSettings> & Pick<BandSettings, 'type' | 'frequencyHz'>;
const band = (shape: Shape, minHz = shape.frequencyHz, maxHz = shape.frequencyHz): BandSettings => ({
  ...BAND_DEFAULTS,
  ...shape,
  limits: { minHz, maxHz },
});

/** Three layouts. Their places are common practice. */
export const LAYOUTS: readonly Layout[] = [
  {
    id: 'three-fixed',
    name: 'Three fixed places',
    what: 'Lows, middle and highs, whose places stay where they are: only gains are left to decide',
    bands: [
      band({ type: 'low-shelf', frequencyHz: 110 }),
      band({ type: 'bell', frequencyHz: 900, q: 0.6 }),
      band({ type: 'high-shelf', frequencyHz: 7000 }),
    ],
  },
  {
    id: 'five-fences',
    name: 'Five in their fences',
    what: 'A high-pass and four bands, each of which stays in its own stretch',
    bands: [
      band({ type: 'high-pass', frequencyHz: 20, order: 3 }, 20, 350),
      band({ type: 'low-shelf', frequencyHz: 90 }, 40, 220),
      band({ type: 'bell', frequencyHz: 350, q: 1 }, 150, 900),
      band({ type: 'bell', frequencyHz: 2200, q: 1 }, 800, 5500),
      band({ type: 'high-shelf', frequencyHz: 8000 }, 4000, 16000),
    ],
  },
  {
    id: 'ends-and-one',
    name: 'Both ends and one',
    what: 'A high-pass for the lows, a low-pass for the highs, one bell that may go through the middle',
    bands: [
      band({ type: 'high-pass', frequencyHz: 30, order: 3 }, 20, 500),
      band({ type: 'bell', frequencyHz: 1000, q: 1 }, 120, 6000),
      band({ type: 'low-pass', frequencyHz: 18000, order: 2 }, 3000, 20000),
    ],
  },
];
