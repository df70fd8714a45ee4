import fc from 'fast-check';
import { BAND_DEFAULTS, BAND_TYPES, newBandSettings, PASS_FAMILIES, type BandSettings } from '../song';
import { analogMagnitudeDb } from './analog';
import { designBand, designEqualizer, prototype } from './design';
import fixtures from './fixtures/responses.json';
import { groupDelayMs, logSpacedHz, magnitudeDb, phaseDegrees, phasesDegrees } from './response';
import { isStable } from './section';

const cases = fixtures.cases.map(({ band, magnitudesDb }) => ({
  band: { ...BAND_DEFAULTS, frequencyHz: 1000, ...band } as BandSettings,
  magnitudesDb,
  name: JSON.stringify(band),
}));

describe('responses against scipy.signal (fixtures/make_responses.py)', () => {
  test.each(cases)('the analog prototype of $name is scipy’s', ({ band, magnitudesDb }) => {
    fixtures.ratios.forEach((ratio, i) => {
      const ours = analogMagnitudeDb(prototype(band), 1000, 1000 * ratio);
      // Near a zero the level falls without end: there both must only be deep.
      if (magnitudesDb[i] < -200) expect(ours).toBeLessThan(-180);
      else expect(Math.abs(ours - magnitudesDb[i])).toBeLessThan(1e-4);
    });
  });

  // Tolerances are what was measured, rounded up; docs/how-it-works.md gives the table.
  test.each(cases)(
    'the digital response of $name is scipy’s below a twentieth of the rate',
    ({ band, magnitudesDb }) => {
      const frequencyHz = 200;
      const sections = designBand({ ...band, frequencyHz }, 48000);
      fixtures.ratios.forEach((ratio, i) => {
        // The fit follows each section down to −45 dB.
        if (ratio * frequencyHz > 2400 || magnitudesDb[i] < -60) return;
        expect(Math.abs(magnitudeDb(sections, ratio * frequencyHz, 48000) - magnitudesDb[i])).toBeLessThan(0.05);
      });
    },
  );
});

/** Worst deviation from the analog prototype, over what is not shut off, up to a frequency. */
function deviationDb(band: BandSettings, rateHz: number, topHz: number): number {
  const sections = designBand(band, rateHz);
  const analog = prototype(band);
  return logSpacedHz(20, topHz, 200).reduce((worst, hz) => {
    const wanted = analogMagnitudeDb(analog, band.frequencyHz, hz);
    return wanted < -40 ? worst : Math.max(worst, Math.abs(magnitudeDb(sections, hz, rateHz) - wanted));
  }, 0);
}

describe('following the analog prototype', () => {
  // Pinned: a little above what was measured, so that a drift shows.
  const pinned: [Partial<BandSettings> & { type: BandSettings['type'] }, number, number][] = [
    [{ type: 'bell', gainDb: 12, q: 2 }, 10000, 0.05],
    [{ type: 'bell', gainDb: -12, q: 2 }, 10000, 0.05],
    [{ type: 'bell', gainDb: -18, q: 0.1 }, 1000, 0.05],
    [{ type: 'bell', gainDb: 18, q: 20 }, 19000, 0.08],
    [{ type: 'high-shelf', gainDb: 12 }, 10000, 0.02],
    [{ type: 'low-shelf', gainDb: -12 }, 10000, 0.02],
    [{ type: 'tilt', gainDb: 12 }, 10000, 0.02],
    [{ type: 'band-pass', q: 2 }, 10000, 0.05],
    [{ type: 'high-pass', order: 4 }, 10000, 0.05],
    [{ type: 'low-pass', order: 2 }, 10000, 0.05],
    [{ type: 'low-pass', order: 8 }, 10000, 0.05],
    [{ type: 'high-pass', family: 'chebyshev-1', order: 6 }, 5000, 0.05],
    [{ type: 'low-pass', family: 'chebyshev-2', order: 5 }, 8000, 0.05],
    [{ type: 'low-pass', family: 'elliptic', order: 6 }, 5000, 0.06],
  ];
  test.each(pinned)('%j at %i Hz and 48 kHz stays within %f dB up to 20 kHz', (shape, frequencyHz, toleranceDb) => {
    expect(deviationDb({ ...BAND_DEFAULTS, frequencyHz, ...shape }, 48000, 20000)).toBeLessThan(toleranceDb);
  });

  test.each([44100, 48000, 88200, 96000, 192000])(
    'bells and shelves of ±18 dB, Q 0.1 to 20, stay within 0.1 dB up to 10 kHz and 0.3 dB up to 20 kHz at %i Hz',
    (rateHz) => {
      for (const frequencyHz of [50, 700, 3000, 8000, 12000, 17000, 19500])
        for (const gainDb of [-18, -6, 18])
          for (const q of [0.1, 0.7071, 4, 20])
            for (const type of ['bell', 'low-shelf', 'high-shelf'] as const) {
              if (type !== 'bell' && q > 1) continue;
              const band = { ...newBandSettings(type, frequencyHz), gainDb, q };
              const topHz = Math.min(20000, 0.48 * rateHz);
              if (deviationDb(band, rateHz, 10000) > 0.1 || deviationDb(band, rateHz, topHz) > 0.3)
                throw new Error(`${JSON.stringify(band)} strays by ${deviationDb(band, rateHz, topHz)} dB`);
            }
    },
  );

  test('where the plain bilinear transform would shut off, at half the rate, a bell keeps its analog level', () => {
    const band = { ...newBandSettings('bell', 16000), gainDb: 12, q: 0.7 };
    const wanted = analogMagnitudeDb(prototype(band), 16000, 20000);
    expect(wanted).toBeGreaterThan(10);
    expect(Math.abs(magnitudeDb(designBand(band, 48000), 20000, 48000) - wanted)).toBeLessThan(0.5);
  });
});

describe('what the names promise', () => {
  test.each([1, 2, 3, 4, 5, 6, 7, 8])(
    'order %i falls by 6.02 dB per octave for each order, and is at −3.01 dB at the corner',
    (order) => {
      const highPass = designBand({ ...newBandSettings('high-pass', 1000), order }, 48000);
      const lowPass = designBand({ ...newBandSettings('low-pass', 200), order }, 48000);
      expect(magnitudeDb(highPass, 40, 48000) - magnitudeDb(highPass, 20, 48000)).toBeCloseTo(6.0206 * order, 1);
      expect(magnitudeDb(lowPass, 1600, 48000) - magnitudeDb(lowPass, 3200, 48000)).toBeCloseTo(6.0206 * order, 0);
      expect(magnitudeDb(highPass, 1000, 48000)).toBeCloseTo(-3.0103, 2);
      expect(magnitudeDb(lowPass, 200, 48000)).toBeCloseTo(-3.0103, 2);
    },
  );

  test('a notch lets nothing through at its frequency and −3 dB at its edges', () => {
    const notch = designBand({ ...newBandSettings('notch', 1000), q: 4 }, 48000);
    expect(magnitudeDb(notch, 1000, 48000)).toBeLessThan(-120);
    expect(magnitudeDb(notch, 1000 * (Math.sqrt(1 + 1 / 64) - 1 / 8), 48000)).toBeCloseTo(-3.0103, 3);
  });

  test('a bell of no gain is a wire, and a band that is off has no sections', () => {
    const bell = newBandSettings('bell', 3000);
    for (const hz of [20, 1000, 3000, 20000]) expect(magnitudeDb(designBand(bell, 48000), hz, 48000)).toBeCloseTo(0, 9);
    expect(designBand({ ...bell, enabled: false }, 48000)).toEqual([]);
  });

  test('the output gain is part of the first section', () => {
    const bands = [newBandSettings('high-pass', 100), newBandSettings('bell', 1000)];
    const plain = designEqualizer({ bands, outputGainDb: 0 }, 48000);
    const louder = designEqualizer({ bands, outputGainDb: 6 }, 48000);
    expect(louder).toHaveLength(plain.length);
    expect(magnitudeDb(louder, 500, 48000) - magnitudeDb(plain, 500, 48000)).toBeCloseTo(6, 9);
    expect(louder.slice(1)).toEqual(plain.slice(1));
    expect(magnitudeDb(designEqualizer({ bands: [], outputGainDb: -3 }, 48000), 99, 48000)).toBeCloseTo(-3, 9);
  });

  /** The greatest difference from the analog prototype up to 20 kHz, where that is above −40 dB. */
  function worstDb(band: BandSettings, rateHz: number): number {
    const sections = designBand(band, rateHz);
    expect(sections.every(isStable)).toBe(true);
    return [...logSpacedHz(20, Math.min(20000, 0.48 * rateHz), 400)].reduce((worst, hz) => {
      const wanted = analogMagnitudeDb(prototype(band), band.frequencyHz, hz);
      return wanted < -40 ? worst : Math.max(worst, Math.abs(magnitudeDb(sections, hz, rateHz) - wanted));
    }, 0);
  }

  test.each([32000, 44100, 48000])(
    'a band above half of the rate is followed as far as it is heard: %i Hz',
    (rateHz) => {
      for (const type of ['bell', 'low-shelf', 'high-shelf', 'high-pass', 'low-pass', 'notch', 'tilt'] as const)
        for (const hz of [0.496 * rateHz, 23000, 25000, 30000])
          if (hz <= 30000) expect(worstDb({ ...newBandSettings(type, hz), gainDb: 9 }, rateHz)).toBeLessThan(0.3);
    },
  );

  test.each([44100, 48000, 96000])(
    'narrow shelves near the top keep to their prototype, and to minimum phase: %i Hz',
    (rateHz) => {
      for (const type of ['low-shelf', 'high-shelf'] as const)
        for (const hz of [10000, 13000, 16000, 19000, 20000])
          for (const q of [3, 10, 20, 40])
            for (const gainDb of [18, -18, 6]) {
              const band = { ...newBandSettings(type, hz), gainDb, q };
              // Q 40 at +18 dB puts a pole within a percent of half of 44.1 kHz.
              expect(worstDb(band, rateHz)).toBeLessThan(q === 40 && rateHz === 44100 ? 1.2 : 0.3);
              for (const { b0, b1, b2 } of designBand(band, rateHz)) {
                expect(Math.abs(b2)).toBeLessThanOrEqual(Math.abs(b0) * (1 + 1e-9));
                expect(Math.abs(b1)).toBeLessThanOrEqual(Math.abs(b0 + b2) * (1 + 1e-9));
              }
            }
    },
  );
});

function expectSound(shape: Partial<BandSettings>, rateHz: number): void {
  const sections = designBand({ ...BAND_DEFAULTS, type: 'bell', frequencyHz: 1000, ...shape }, rateHz);
  const isSound = sections.every((section) => isStable(section) && Object.values(section).every(Number.isFinite));
  if (!isSound) throw new Error(`${JSON.stringify(shape)} at ${rateHz} Hz`);
}

test('every legal band is stable and finite at every rate (seed 7)', () => {
  const band = fc.record({
    type: fc.constantFrom(...BAND_TYPES),
    frequencyHz: fc.double({ min: 10, max: 30000, noNaN: true }),
    gainDb: fc.double({ min: -36, max: 36, noNaN: true }),
    q: fc.double({ min: 0.1, max: 100, noNaN: true }),
    order: fc.integer({ min: 1, max: 16 }),
    family: fc.constantFrom(...PASS_FAMILIES),
    rippleDb: fc.double({ min: 0.01, max: 12, noNaN: true }),
    stopbandDb: fc.double({ min: 10, max: 120, noNaN: true }),
  });
  const rate = fc.constantFrom(44100, 48000, 88200, 96000, 192000);
  fc.assert(
    fc.property(band, rate, (shape, rateHz) => {
      expectSound(shape, rateHz);
    }),
    { seed: 7, numRuns: 3000 },
  );
  // The corners of what is legal.
  for (let order = 1; order <= 16; order++)
    for (const type of ['low-pass', 'high-pass'] as const)
      for (const [rippleDb, stopbandDb] of [
        [12, 13],
        [12, 120],
        [0.01, 10],
        [0.01, 120],
      ])
        for (const frequencyHz of [10, 1000, 20000, 30000])
          expectSound({ type, family: 'elliptic', order, rippleDb, stopbandDb, frequencyHz }, 48000);
});

test('a phase goes on without jumps, or stays within half a turn, and both are the same angle', () => {
  const sections = designBand({ ...newBandSettings('low-pass', 300), order: 8 }, 48000);
  const frequenciesHz = logSpacedHz(20, 20000, 900);
  const plain = phasesDegrees(sections, frequenciesHz, 48000, false);
  const wrapped = phasesDegrees(sections, frequenciesHz, 48000, true);
  // Eight poles turn the phase by four quarters up to the corner, and on beyond it.
  expect(plain[frequenciesHz.findIndex((hz) => hz > 300)]).toBeLessThan(-355);
  expect(Math.min(...plain)).toBeLessThan(-540);
  for (let i = 1; i < 900; i++) expect(Math.abs(plain[i] - plain[i - 1])).toBeLessThan(30);
  expect(Math.max(...wrapped)).toBeLessThanOrEqual(180);
  expect(Math.min(...wrapped)).toBeGreaterThan(-180);
  plain.forEach((degrees, i) =>
    expect(Math.abs(Math.cos(((degrees - wrapped[i]) * Math.PI) / 180) - 1)).toBeLessThan(1e-9),
  );
});

// The definition's own figures: boost and cut of 8 dB at 60 Hz.
test('a twin shelf keeps its boost and leaves a dip beyond it; turned over at the other end', () => {
  const band = { ...newBandSettings('twin-shelf', 60), boostDb: 8, cutDb: 8 };
  const at = (hz: number) => magnitudeDb(designBand(band, 48000), hz, 48000);
  expect(at(15)).toBeGreaterThan(3);
  const between = Math.min(...Array.from(logSpacedHz(60, 600, 200), at));
  expect(between).toBeLessThan(-1);
  expect(Math.abs(at(5000))).toBeLessThan(0.05);
  const alone = (changes: Partial<BandSettings>) => designBand({ ...band, ...changes }, 48000);
  expect(magnitudeDb(alone({ cutDb: 0 }), 60, 48000)).toBeCloseTo(4, 1);
  expect(magnitudeDb(alone({ boostDb: 0 }), 10, 48000)).toBeCloseTo(-8, 1);
  expect(alone({ boostDb: 0, cutDb: 0 })).toEqual([]);
  const high = { ...newBandSettings('twin-shelf', 8000), boostDb: 8, cutDb: 8, end: 'high' as const };
  const mirrored = analogMagnitudeDb(prototype(high), 8000, 8000 * 4);
  expect(mirrored).toBeCloseTo(analogMagnitudeDb(prototype({ ...high, end: 'low', frequencyHz: 200 }), 200, 50), 9);
});

test('phase and group delay agree: the delay is the slope of the phase', () => {
  const sections = designBand({ ...newBandSettings('low-pass', 2000), order: 3 }, 48000);
  for (const hz of [100, 500, 1900, 6000]) {
    const step = 0.01;
    const turn = phaseDegrees(sections, hz + step, 48000) - phaseDegrees(sections, hz - step, 48000);
    const delayMs = (-turn / 360 / (2 * step)) * 1000;
    expect(groupDelayMs(sections, hz, 48000)).toBeCloseTo(delayMs, 5);
  }
});

test.each([3, 4, 7, 12])(
  'an elliptic low-pass of order %i at 9 kHz: ripples, edge and floor are what they are said to be',
  (order) => {
    const band = {
      ...newBandSettings('low-pass', 9000),
      family: 'elliptic' as const,
      order,
      rippleDb: 0.5,
      stopbandDb: 60,
    };
    const sections = designBand(band, 48000);
    const levels = (lowHz: number, highHz: number) =>
      Array.from(logSpacedHz(lowHz, highHz, 2000), (hz) => magnitudeDb(sections, hz, 48000));
    const inside = levels(20, 9000);
    // The fit follows the analog filter within 0.05 dB down to −45 dB, and keeps its zeros.
    expect(Math.abs(Math.max(...inside))).toBeLessThan(0.05);
    expect(Math.abs(Math.min(...inside) + 0.5)).toBeLessThan(0.05);
    const analog = prototype(band);
    const reached = Array.from(logSpacedHz(9000, 20000, 500)).filter((hz) => analogMagnitudeDb(analog, 9000, hz) < -50);
    for (const hz of reached) expect(magnitudeDb(sections, hz, 48000)).toBeLessThan(-47);
  },
);

test.each([5, 8])(
  'a Chebyshev low-pass of type II and order %i at 6 kHz falls without ripple and keeps its floor',
  (order) => {
    const sections = designBand(
      { ...newBandSettings('low-pass', 6000), family: 'chebyshev-2', order, stopbandDb: 40 },
      48000,
    );
    const levels = Array.from(logSpacedHz(20, 23900, 4000), (hz) => magnitudeDb(sections, hz, 48000));
    const floorFrom = levels.findIndex((db) => db < -40);
    for (let i = 1; i < floorFrom; i++) expect(levels[i]).toBeLessThanOrEqual(levels[i - 1] + 0.01);
    expect(Math.max(...levels.slice(floorFrom))).toBeLessThan(-39.9);
    expect(Math.abs(magnitudeDb(sections, 6000, 48000) + 3.0103)).toBeLessThan(0.05);
  },
);

// S. Linkwitz, JAES 1976: low-pass and high-pass of a Linkwitz-Riley crossover add up to an all-pass (odd halves turned over).
test.each([2, 4, 6, 8, 12, 16])('a Linkwitz-Riley crossover of order %i adds up flat', (order) => {
  const of = (type: 'low-pass' | 'high-pass') =>
    prototype({ ...newBandSettings(type, 1000), family: 'linkwitz-riley', order });
  const [low, high] = [of('low-pass'), of('high-pass')];
  for (const ratio of [0.1, 0.5, 0.9, 1, 1.3, 4]) {
    const at = (sections: typeof low) =>
      sections.reduce(
        ([re, im], { numerator: n, denominator: d }) => {
          const [a, b] = [n[0] - n[2] * ratio * ratio, n[1] * ratio];
          const [c, e] = [d[0] - d[2] * ratio * ratio, d[1] * ratio];
          const power = c * c + e * e;
          const [x, y] = [(a * c + b * e) / power, (b * c - a * e) / power];
          return [re * x - im * y, re * y + im * x];
        },
        [1, 0],
      );
    const [l, h] = [at(low), at(high)];
    const turn = order % 4 === 2 ? -1 : 1;
    expect(Math.hypot(l[0] + turn * h[0], l[1] + turn * h[1])).toBeCloseTo(1, 9);
  }
});

test('corners are where each family has them', () => {
  const at = (family: BandSettings['family'], rest: Partial<BandSettings> = {}) =>
    analogMagnitudeDb(prototype({ ...newBandSettings('low-pass', 1000), family, order: 6, ...rest }), 1000, 1000);
  for (const family of ['butterworth', 'bessel', 'chebyshev-2'] as const) expect(at(family)).toBeCloseTo(-3.0103, 4);
  expect(at('linkwitz-riley')).toBeCloseTo(-6.0206, 4);
  expect(at('chebyshev-1', { rippleDb: 0.5 })).toBeCloseTo(-0.5, 6);
  expect(at('elliptic', { rippleDb: 2 })).toBeCloseTo(-2, 6);
});

test('a resonant filter rises at its corner with its Q, and is a Butterworth with a Butterworth’s', () => {
  const at = (order: number, q: number) =>
    analogMagnitudeDb(prototype({ ...newBandSettings('high-pass', 1000), family: 'resonant', order, q }), 1000, 1000);
  expect(at(2, 4)).toBeCloseTo(20 * Math.log10(4), 6);
  expect(at(4, 1 / (2 * Math.sin(Math.PI / 8)))).toBeCloseTo(-3.0103, 6);
});

test('an all-pass turns the phase and nothing else', () => {
  const sections = designBand({ ...newBandSettings('all-pass', 5000), q: 2 }, 48000);
  for (const hz of [20, 1000, 5000, 20000]) expect(magnitudeDb(sections, hz, 48000)).toBeCloseTo(0, 9);
  expect(Math.cos((phaseDegrees(sections, 5000, 48000) * Math.PI) / 180)).toBeLessThan(-0.98);
});
