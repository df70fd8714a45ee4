/**
 * How likely it is that guessing gives so clear a result or a clearer one, for either side: the two-sided binomial test at one half.
 * @param chosen how often the one was chosen, 0 to `trials`
 * @param trials 1 or more
 * @returns 0 to 1; 1 where both were chosen equally often
 */
export function guessProbability(chosen: number, trials: number): number {
  const clearer = Math.max(chosen, trials - chosen);
  let ways = 1;
  let tail = 0;
  for (let k = 0; k <= trials; k++) {
    if (k >= clearer) tail += ways;
    ways = (ways * (trials - k)) / (k + 1);
  }
  return Math.min(1, (2 * tail) / 2 ** trials);
}
