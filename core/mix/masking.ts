import { measureKernel, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from '../measure';

/**
 * How one sound covers another across frequency. Distances are counted in equivalent rectangular bandwidths of the ear's filters.
 */

/**
 * How many equivalent rectangular bandwidths lie below a frequency: the ERB-rate. Source: B. Glasberg, B. Moore, Hearing Research 47,
 * 1990.
 */
export const erbNumber = (frequencyHz: number) => 21.4 * Math.log10(4.37e-3 * frequencyHz + 1);

/**
 * How far a masker is down at a distance from it, dB: −25 dB per unit below, −10 dB above, 0 at the masker. Source: M. Schroeder,
 * B. Atal, J. Hall, JASA 66, 1979, whose unit is the Bark; here it is the ERB, the later measurement of the same filters.
 * @param distance from the masker to where it is asked for, positive upwards
 */
export function spreadingDb(distance: number): number {
  const x = distance + 0.474;
  return 15.81 + 7.5 * x - 17.5 * Math.sqrt(1 + x * x);
}

/** What is further down than this is left out. */
const LEAST_SPREAD_DB = -40;

interface Spread {
  first: number;
  shares: Float64Array;
}

/** Where the power of each band goes; its shares add up to 1, so that spreading keeps the power. */
const SPREADS: readonly Spread[] = SPECTRUM_CENTERS_HZ.map((fromHz) => {
  const all = SPECTRUM_CENTERS_HZ.map((hz) => spreadingDb(erbNumber(hz) - erbNumber(fromHz)));
  const first = all.findIndex((db) => db > LEAST_SPREAD_DB);
  const last = all.findLastIndex((db) => db > LEAST_SPREAD_DB);
  const shares = Float64Array.from(all.slice(first, last + 1), (db) => 10 ** (db / 10));
  const sum = shares.reduce((total, share) => total + share, 0);
  return { first, shares: shares.map((share) => share / sum) };
});

/** What each band receives of the others, one band after the other, for the many times it is asked: the first that gives, and its shares. */
const RECEIVED = SPECTRUM_CENTERS_HZ.map((_, to) => {
  const givers = SPREADS.flatMap(({ first, shares }, from) =>
    to >= first && to < first + shares.length ? [from] : [],
  );
  const [first, last] = [givers[0], givers[givers.length - 1]];
  // What lies between two that give gives too: spreads grow with frequency.
  const shares = SPREADS.slice(first, last + 1).map((spread) => spread.shares[to - spread.first] ?? 0);
  return { first, shares };
});
const SHARES = Float64Array.from(RECEIVED.flatMap(({ shares }) => shares));
const FIRST_BAND = Int32Array.from(RECEIVED, ({ first }) => first);
const STARTS = Int32Array.from([0, ...RECEIVED.map(({ shares }) => shares.length)]).map(
  (
    (sum) => (length) =>
      (sum += length)
  )(0),
);

let ofThisThread: ((rows: Float32Array, out: Float32Array) => void) | undefined;

/** {@link spread} for many blocks, one after the other: by the compiled kernel wherever it runs. @param out receives as many values */
export function spreadBlocks(powers: Float32Array, out: Float32Array): void {
  ofThisThread ??= measureKernel()?.rowSpreader(RECEIVED) ?? plainSpreader;
  ofThisThread(powers, out);
}

function plainSpreader(powers: Float32Array, out: Float32Array): void {
  const row = new Float64Array(SPECTRUM_BANDS);
  for (let at = 0; at < powers.length; at += SPECTRUM_BANDS) {
    spread(powers, at, row);
    out.set(row, at);
  }
}

/**
 * The excitation that the powers of one block give rise to: each band spread over its neighbours.
 * @param powers 120 values from `at` on
 * @param out receives 120 values
 */
export function spread(powers: Float32Array | Float64Array, at: number, out: Float64Array): void {
  for (let to = 0; to < SPECTRUM_BANDS; to++) {
    let from = at + FIRST_BAND[to];
    const end = STARTS[to + 1];
    // Two sums, neither of which waits for the other.
    let [even, odd] = [0, 0];
    let i = STARTS[to];
    for (; i + 1 < end; i += 2, from += 2) {
      even += powers[from] * SHARES[i];
      odd += powers[from + 1] * SHARES[i + 1];
    }
    if (i < end) even += powers[from] * SHARES[i];
    out[to] = even + odd;
  }
}

/** Exponent of loudness over power for soft sounds, and of how much a masker takes away beyond its own share. */
const LOUDNESS_EXPONENT = 0.2;
const MASKER_EXPONENT = 0.3;

/**
 * How much of a sound's loudness in one band a masker takes away: all of it where the masker is as strong or stronger, a third at 10 dB
 * below, a tenth at 20 dB. The partial loudness of B. Moore, B. Glasberg, T. Baer, JAES 45, 1997, without its threshold in quiet and
 * with its masked threshold at the masker's own level: `1 − [(1 + m)^0.2 − (2m)^0.2 · m^0.3]` (exponents written down from memory).
 * @param maskerDb level of the masker over the sound, dB
 * @returns 0 to 1
 */
export function lostShare(maskerDb: number): number {
  if (maskerDb >= 0) return 1;
  const masker = 10 ** (maskerDb / 10);
  const left = (1 + masker) ** LOUDNESS_EXPONENT - (2 * masker) ** LOUDNESS_EXPONENT * masker ** MASKER_EXPONENT;
  return Math.min(1, Math.max(0, 1 - left));
}
