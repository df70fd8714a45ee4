import fc from 'fast-check';
import { autocorrelation, spread } from './correlation';

const onsets = fc.array(fc.double({ min: 0, max: 9, noNaN: true }), { minLength: 3, maxLength: 70 });

test('how alike onsets are to themselves is what the sums of products are, in a loop beyond its end too (seed 4)', () => {
  fc.assert(
    fc.property(onsets, fc.integer({ min: 1, max: 150 }), fc.boolean(), (values, most, isLoop) => {
      const spreadOut = spread(values);
      const mean = spreadOut.reduce((sum, value) => sum + value, 0) / values.length;
      const about = spreadOut.map((value) => value - mean);
      const product = (lag: number) => {
        const pairs = Array.from(about).flatMap((value, n) => {
          const later = isLoop ? about[(n + lag) % about.length] : about[n + lag];
          return later === undefined ? [] : [value * later];
        });
        return pairs.reduce((sum, pair) => sum + pair, 0) / pairs.length;
      };
      const found = autocorrelation(values, most, isLoop);
      expect(found).toHaveLength(isLoop ? most : Math.min(most, values.length - 1));
      if (product(0) < 1e-6) return;
      found.forEach((value, lag) => expect(value).toBeCloseTo(product(lag) / product(0), 9));
    }),
    { seed: 4 },
  );
});
