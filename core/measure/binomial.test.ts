import { execFileSync } from 'node:child_process';
import { guessProbability } from './binomial';

test('the same as scipy.stats.binomtest, two-sided at one half, for every outcome of up to 16 trials', () => {
  const script =
    'import json; from scipy.stats import binomtest; print(json.dumps([[k, n, binomtest(k, n).pvalue] for n in range(1, 17) for k in range(n + 1)]))';
  const cases = JSON.parse(execFileSync('/usr/bin/python3', ['-c', script], { encoding: 'utf8' })) as number[][];
  expect(cases.length).toBe(152);
  for (const [k, n, p] of cases) expect(guessProbability(k, n)).toBeCloseTo(p, 10);
});
