import { magnitudeDb, type Section } from '../filters';

/**
 * The K-weighting of ITU-R BS.1770-4: a shelf for the head and a high-pass. The standard gives coefficients for 48 kHz; for other rates
 * they are worked out from the analog filters behind them (B. De Man, "Evaluation of implementations of the EBU R128 loudness
 * measurement", AES 145, 2018, whose formulas give the published figures at 48 kHz). The constant −0.691 of the loudness formula is not part of it.
 */
const SHELF = { hz: 1681.974450955533, gainDb: 3.999843853973347, q: 0.7071752369554196 };
const HIGH_PASS = { hz: 38.13547087602444, q: 0.5003270373238773 };

/** @param rateHz sample rate @returns the two sections */
export function kWeightingSections(rateHz: number): Section[] {
  const k = Math.tan((Math.PI * SHELF.hz) / rateHz);
  const high = 10 ** (SHELF.gainDb / 20);
  const band = high ** 0.4996667741545416;
  const a0 = 1 + k / SHELF.q + k * k;
  const h = Math.tan((Math.PI * HIGH_PASS.hz) / rateHz);
  const h0 = 1 + h / HIGH_PASS.q + h * h;
  return [
    {
      b0: (high + (band * k) / SHELF.q + k * k) / a0,
      b1: (2 * (k * k - high)) / a0,
      b2: (high - (band * k) / SHELF.q + k * k) / a0,
      a1: (2 * (k * k - 1)) / a0,
      a2: (1 - k / SHELF.q + k * k) / a0,
    },
    { b0: 1, b1: -2, b2: 1, a1: (2 * (h * h - 1)) / h0, a2: (1 - h / HIGH_PASS.q + h * h) / h0 },
  ];
}

const AT_48K = kWeightingSections(48000);

export function kWeightingDb(frequencyHz: number): number {
  return magnitudeDb(AT_48K, frequencyHz, 48000);
}
