/**
 * An analog section in s normalised to the band's frequency (s = jΩ/Ω0):
 * `H(s) = (n[0] + n[1]·s + n[2]·s²) / (d[0] + d[1]·s + d[2]·s²)`. `d[2] = n[2] = 0` makes it first order.
 */
export interface AnalogSection {
  numerator: readonly [number, number, number];
  denominator: readonly [number, number, number];
}

/**
 * Squared magnitude of an analog section.
 * @param section normalised to the band's frequency
 * @param ratio frequency divided by the band's frequency, ≥ 0
 * @returns |H(j·ratio)|², linear; 0 at a zero on the axis
 */
export function analogPower(section: AnalogSection, ratio: number): number {
  const [n0, n1, n2] = section.numerator;
  const [d0, d1, d2] = section.denominator;
  const squared = ratio * ratio;
  const power = (c0: number, c1: number, c2: number) => (c0 - c2 * squared) ** 2 + c1 * c1 * squared;
  return power(n0, n1, n2) / power(d0, d1, d2);
}

/**
 * Magnitude of a cascade of analog sections: the reference that the digital response follows.
 * @param sections normalised to `frequencyHz`
 * @param atHz frequency at which to evaluate, Hz
 * @returns dB; −Infinity at a zero on the axis
 */
export function analogMagnitudeDb(sections: readonly AnalogSection[], frequencyHz: number, atHz: number): number {
  return 10 * Math.log10(sections.reduce((power, section) => power * analogPower(section, atHz / frequencyHz), 1));
}
