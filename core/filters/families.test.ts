import fc from 'fast-check';
import { PASS_FAMILIES } from '../song';
import { analogPower } from './analog';
import { besselLowPass } from './bessel';
import { butterworthLowPass, butterworthQs } from './butterworth';
import { chebyshev1LowPass } from './chebyshev';
import { legalOrder, ORDERS } from './design';
import { ellipticLowPass } from './elliptic';
import { refine } from './refine';
import { logSpacedHz } from './response';
import { highPassOf } from './roots';
import { isStable } from './section';

/** Poles of a section of second order: their real and imaginary parts. */
const poleOf = ([d0, d1]: readonly number[]) => ({ re: -d1 / 2, im: Math.sqrt(d0 - (d1 * d1) / 4) });

// A. Zverev, Handbook of Filter Synthesis, 1967 (values from memory; the fixtures of scipy agree with the whole responses).
test('Butterworth: the width factors of orders 2 and 4', () => {
  expect(butterworthQs(2)[0]).toBeCloseTo(0.70711, 5);
  expect(butterworthQs(4).map((q) => Number(q.toFixed(4)))).toEqual([0.5412, 1.3066]);
});

test('Bessel of order 2: poles at −1.1016 ± 0.6360j when it is −3.01 dB at 1', () => {
  const { re, im } = poleOf(besselLowPass(2)[0].denominator);
  expect(re).toBeCloseTo(-1.1016, 4);
  expect(im).toBeCloseTo(0.636, 4);
});

test('a Bessel’s delay is flat: at the corner of order 6 it is still 90 % of that at 0 Hz, where a Butterworth’s has grown by half', () => {
  const delay = (sections: ReturnType<typeof besselLowPass>, omega: number) =>
    sections.reduce((sum, { denominator: [d0, d1, d2] }) => {
      const phase = (w: number) => Math.atan2(d1 * w, d0 - d2 * w * w);
      return sum + (phase(omega + 1e-5) - phase(omega - 1e-5)) / 2e-5;
    }, 0);
  const change = (sections: ReturnType<typeof besselLowPass>) => delay(sections, 1) / delay(sections, 1e-3);
  expect(change(besselLowPass(6))).toBeGreaterThan(0.9);
  expect(change(besselLowPass(6))).toBeLessThan(1.02);
  expect(change(butterworthLowPass(6))).toBeGreaterThan(1.5);
});

test('Chebyshev of 3 dB and order 2: poles at −0.3224 ± 0.7772j', () => {
  const { re, im } = poleOf(chebyshev1LowPass(2, 3.0103)[0].denominator);
  expect(re).toBeCloseTo(-0.3218, 2);
  expect(im).toBeCloseTo(0.777, 2);
});

test('an elliptic low-pass is the steepest: it falls more at 1.5 times its edge than a Chebyshev, and that more than a Butterworth', () => {
  const at = (sections: ReturnType<typeof ellipticLowPass>) =>
    sections.reduce((power, section) => power * analogPower(section, 1.5), 1);
  const elliptic = at(ellipticLowPass(5, 1, 60));
  const chebyshev = at(chebyshev1LowPass(5, 1));
  expect(elliptic).toBeLessThan(chebyshev);
  expect(chebyshev).toBeLessThan(at(butterworthLowPass(5)));
});

// The definition of the family: ripples of the one depth below the edge, and a floor beyond it.
test('an elliptic low-pass is what it is said to be at every legal setting, where ripple and floor nearly meet too', () => {
  for (let order = 2; order <= 16; order++)
    for (const [rippleDb, stopbandDb] of [
      [12, 13],
      [12, 120],
      [0.01, 10],
      [0.01, 120],
      [3, 4.2],
      [11.5, 12],
    ]) {
      const sections = ellipticLowPass(order, rippleDb, stopbandDb);
      const db = (ratio: number) =>
        10 * Math.log10(sections.reduce((power, section) => power * analogPower(section, ratio), 1));
      const about = `order ${order}, ripple ${rippleDb}, floor ${stopbandDb}`;
      expect([about, db(1).toFixed(3)]).toEqual([about, (-rippleDb).toFixed(3)]);
      for (let i = 0; i <= 400; i++) {
        const level = db(i / 400);
        expect([about, level <= 1e-4 && level >= -rippleDb - 1e-4]).toEqual([about, true]);
      }
      expect([about, db(1e6) <= -stopbandDb + 1e-3]).toEqual([about, true]);
    }
});

test('a high-pass is the mirror of its low-pass, and the mirror of the mirror is the low-pass', () => {
  for (const sections of [butterworthLowPass(5), ellipticLowPass(6, 1, 50), besselLowPass(3)]) {
    for (const ratio of [0.1, 0.7, 1, 2.3]) {
      const power = (list: typeof sections, at: number) =>
        list.reduce((product, section) => product * analogPower(section, at), 1);
      expect(10 * Math.log10(power(highPassOf(sections), ratio))).toBeCloseTo(
        10 * Math.log10(power(sections, 1 / ratio)),
        9,
      );
    }
    expect(highPassOf(highPassOf(sections))).toEqual(sections);
  }
});

test('a legal order is one of the family’s, and the nearest', () => {
  for (const family of PASS_FAMILIES) {
    const { min, max, step } = ORDERS[family];
    for (let wanted = -2; wanted < 20; wanted++) {
      const order = legalOrder(family, wanted);
      expect(order).toBeGreaterThanOrEqual(min);
      expect(order).toBeLessThanOrEqual(max);
      expect((order - min) % step).toBe(0);
      if (wanted >= min && wanted <= max) expect(Math.abs(order - wanted)).toBeLessThanOrEqual(step / 2);
    }
  }
});

test('the refinement is never worse than its start, and stable (seed 41)', () => {
  const free = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ] as const;
  fc.assert(
    fc.property(
      fc.double({ min: 30, max: 20000, noNaN: true }),
      fc.double({ min: 0.3, max: 8, noNaN: true }),
      fc.double({ min: -18, max: 18, noNaN: true }),
      (hz, q, gainDb) => {
        const a = 10 ** (gainDb / 40);
        const analog = { numerator: [1, a / q, 1], denominator: [1, 1 / (a * q), 1] } as const;
        // The bilinear transform as a start that is near in the lows and wrong in the highs.
        const k = 1 / Math.tan((Math.PI * hz) / 48000);
        const a0 = 1 + k / (a * q) + k * k;
        const start = {
          b0: (1 + (a * k) / q + k * k) / a0,
          b1: (2 - 2 * k * k) / a0,
          b2: (1 - (a * k) / q + k * k) / a0,
          a1: (2 - 2 * k * k) / a0,
          a2: (1 - k / (a * q) + k * k) / a0,
        };
        const frequenciesHz = logSpacedHz(20, 20000, 60);
        const aim = {
          omegas: Array.from(frequenciesHz, (f) => (2 * Math.PI * f) / 48000),
          levelsDb: Array.from(frequenciesHz, (f) => 10 * Math.log10(analogPower(analog, f / hz))),
        };
        const [refined] = refine([{ section: start, shape: free, widestPole: 0.99999 }], aim, 0.004).sections;
        expect(isStable(refined)).toBe(true);
        const worst = (s: typeof start) => {
          let most = 0;
          for (let f = 20; f < 20000; f *= 1.06) {
            const w = (2 * Math.PI * f) / 48000;
            const power = (c0: number, c1: number, c2: number) =>
              (c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w)) ** 2 + (c1 * Math.sin(w) + c2 * Math.sin(2 * w)) ** 2;
            most = Math.max(
              most,
              Math.abs(10 * Math.log10(power(s.b0, s.b1, s.b2) / power(1, s.a1, s.a2) / analogPower(analog, f / hz))),
            );
          }
          return most;
        };
        expect(worst(refined)).toBeLessThan(worst(start) + 0.05);
      },
    ),
    { seed: 41, numRuns: 60 },
  );
});
