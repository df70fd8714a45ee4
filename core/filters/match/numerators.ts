import type { AnalogSection } from '../analog';
import type { NumeratorShape } from '../refine';

/** Where the zeros of a section with a pair of them on the axis lie in the digital domain, radians per sample. */
export const zeroPlace = ({ numerator: [n0, , n2] }: AnalogSection, omega0: number) => omega0 * Math.sqrt(n0 / n2);

/** True for a section with a pair of zeros on the axis, as a notch has and a section of a filter with ripple in its stopband. */
export const hasZeroPair = ({ numerator: [n0, n1, n2] }: AnalogSection) => n0 !== 0 && n1 === 0 && n2 !== 0;

/** True for a low-pass section with zeros above its corner. */
export function hasZerosAbove(analog: AnalogSection): boolean {
  const { numerator, denominator } = analog;
  return hasZeroPair(analog) && numerator[0] / denominator[0] > numerator[2] / denominator[2];
}

/** Any numerator. */
export const FREE: NumeratorShape = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/**
 * Which numerators keep the zeros that an analog section has at 0 Hz or on the axis. A first-order section gets a second pole to fit with.
 * @param omega0 the band's frequency, radians per sample
 * @param keepsPair whether a pair of zeros on the axis stays on the unit circle
 */
export function shapeOf(analog: AnalogSection, omega0: number, keepsPair: boolean): NumeratorShape {
  const [n0, n1] = analog.numerator;
  if (n0 === 0 && n1 === 0) return [[1, -2, 1]];
  if (n0 === 0) {
    return [
      [1, -1, 0],
      [0, 1, -1],
    ];
  }
  if (keepsPair) return [[1, -2 * Math.cos(zeroPlace(analog, omega0)), 1]];
  return FREE;
}
