import { cornerMeaning, slopeExample } from './families';
import { barbsOf, liftOf } from './post';

test.each([
  [1, ['half']],
  [2, ['full']],
  [3, ['full', 'half']],
  [8, ['full', 'full', 'full', 'full']],
  [10, ['flag']],
  [16, ['flag', 'full', 'full', 'full']],
])('the barbs of order %i add up to its slope', (order, barbs) => {
  expect(barbsOf(order)).toEqual(barbs);
  const worth = { flag: 60, full: 12, half: 6 };
  expect(barbsOf(order).reduce((sum, barb) => sum + worth[barb], 0)).toBe(6 * order);
});

test('ripple and resonance lift the cap of a post, other families do not', () => {
  const of = (family: Parameters<typeof liftOf>[0]['family'], rest = {}) =>
    liftOf({ family, rippleDb: 1, q: 4, ...rest });
  expect([of('butterworth'), of('bessel'), of('linkwitz-riley'), of('chebyshev-2')]).toEqual([0, 0, 0, 0]);
  expect(of('chebyshev-1', { rippleDb: 3 })).toBeGreaterThan(of('elliptic'));
  expect(of('resonant')).toBeGreaterThan(of('resonant', { q: 1 }));
});

test('what the corner of a family is, and which slopes it has', () => {
  expect(cornerMeaning({ family: 'bessel', rippleDb: 1 })).toBe('corner at −3 dB');
  expect(cornerMeaning({ family: 'linkwitz-riley', rippleDb: 1 })).toBe('corner at −6 dB');
  expect(cornerMeaning({ family: 'elliptic', rippleDb: 0.5 })).toBe('edge at −0.50 dB');
  expect(slopeExample('linkwitz-riley')).toContain('12 to 96 dB/oct in steps of 12');
});
