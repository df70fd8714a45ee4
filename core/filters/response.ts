import type { Section } from './section';

/**
 * Magnitude of a cascade of sections at one frequency: `20·log10 |∏ H_k(e^{jω})|`, ω = 2πf/rate.
 * Written in sin²(ω/2), which keeps its precision at low frequencies where 1 + a1 + a2 nearly cancels.
 * @param frequencyHz 0 to half of `rateHz`
 * @returns dB; 0 for no sections, −Infinity at a zero
 */
export function magnitudeDb(sections: readonly Section[], frequencyHz: number, rateHz: number): number {
  const phi = Math.sin((Math.PI * frequencyHz) / rateHz) ** 2;
  let power = 1;
  for (const s of sections) power *= quadraticPower(s.b0, s.b1, s.b2, phi) / quadraticPower(1, s.a1, s.a2, phi);
  return 10 * Math.log10(power);
}

/** |c0 + c1 z⁻¹ + c2 z⁻²|² by phi = sin²(ω/2). Source: Audio EQ Cookbook's note on numerical evaluation of the response. */
function quadraticPower(c0: number, c1: number, c2: number, phi: number): number {
  const power = (c0 + c1 + c2) ** 2 - 4 * phi * (c0 * c1 + 4 * c0 * c2 + c1 * c2) + 16 * c0 * c2 * phi * phi;
  return Math.max(0, power); // rounding may leave a hair below zero at a zero of the response
}

/** @returns one value per frequency, dB; see {@link magnitudeDb} */
export function magnitudesDb(
  sections: readonly Section[],
  frequenciesHz: ArrayLike<number>,
  rateHz: number,
): Float64Array {
  const magnitudes = new Float64Array(frequenciesHz.length);
  for (let i = 0; i < magnitudes.length; i++) magnitudes[i] = magnitudeDb(sections, frequenciesHz[i], rateHz);
  return magnitudes;
}

/**
 * Phase of a cascade, unwrapped from 0 Hz only by summing the sections' own angles, each in (−180, 180].
 * @returns degrees
 */
export function phaseDegrees(sections: readonly Section[], frequencyHz: number, rateHz: number): number {
  const omega = (2 * Math.PI * frequencyHz) / rateHz;
  const angle = (c0: number, c1: number, c2: number) =>
    Math.atan2(
      -(c1 * Math.sin(omega) + c2 * Math.sin(2 * omega)),
      c0 + c1 * Math.cos(omega) + c2 * Math.cos(2 * omega),
    );
  let radians = 0;
  for (const s of sections) {
    const turned = angle(s.b0, s.b1, s.b2) - angle(1, s.a1, s.a2);
    radians += Math.atan2(Math.sin(turned), Math.cos(turned));
  }
  return (radians * 180) / Math.PI;
}

/**
 * Phase of a cascade at rising frequencies.
 * @param wrapped true for values within (−180, 180]; false for a phase that goes on without jumps of a turn, from the sum of the
 * sections' own angles at the lowest frequency on
 * @returns degrees, one value per frequency
 */
export function phasesDegrees(
  sections: readonly Section[],
  frequenciesHz: ArrayLike<number>,
  rateHz: number,
  wrapped: boolean,
): Float64Array {
  const within = (degrees: number) => degrees - 360 * Math.ceil((degrees - 180) / 360);
  let last: number | undefined;
  return Float64Array.from(frequenciesHz, (hz) => {
    const degrees = phaseDegrees(sections, hz, rateHz);
    if (wrapped) return within(degrees);
    return (last = last === undefined ? degrees : last + within(degrees - last));
  });
}

/**
 * Group delay of a cascade, −dφ/dω, by the derivative of each polynomial:
 * `Re(Σ k·c_k·z⁻ᵏ / Σ c_k·z⁻ᵏ)`, numerator minus denominator. Source: J. O. Smith, Introduction to Digital Filters.
 * @returns milliseconds; the term of a polynomial that vanishes at this frequency is taken as 0
 */
export function groupDelayMs(sections: readonly Section[], frequencyHz: number, rateHz: number): number {
  const omega = (2 * Math.PI * frequencyHz) / rateHz;
  const delay = (c0: number, c1: number, c2: number) => {
    const re = c0 + c1 * Math.cos(omega) + c2 * Math.cos(2 * omega);
    const im = -(c1 * Math.sin(omega) + c2 * Math.sin(2 * omega));
    const rampRe = c1 * Math.cos(omega) + 2 * c2 * Math.cos(2 * omega);
    const rampIm = -(c1 * Math.sin(omega) + 2 * c2 * Math.sin(2 * omega));
    const power = re * re + im * im;
    return power === 0 ? 0 : (rampRe * re + rampIm * im) / power;
  };
  const samples = sections.reduce((sum, s) => sum + delay(s.b0, s.b1, s.b2) - delay(1, s.a1, s.a2), 0);
  return (samples / rateHz) * 1000;
}

/** `count` frequencies evenly spaced on a logarithmic axis, both ends included, Hz. @param count ≥ 2 */
export function logSpacedHz(lowHz: number, highHz: number, count: number): Float64Array {
  return Float64Array.from({ length: count }, (_, i) => lowHz * (highHz / lowHz) ** (i / (count - 1)));
}
