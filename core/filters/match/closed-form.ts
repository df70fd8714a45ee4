import { analogPower, type AnalogSection } from '../analog';
import type { Section } from '../section';
import { AUDIBLE_TOP_HZ } from './aim';
import { hasZerosAbove, zeroPlace } from './numerators';
import { basis, dot, polynomialOf, powersOf } from './powers';

/**
 * Digital sections in closed form, near what an analog one does: what a refinement begins with. Poles are the exact images z = e^(sT) of
 * the analog poles; the numerator equals the analog magnitude at 0 Hz and at the band's own frequency, and the freedom that is left is
 * spent on the least squared relative error over the audible range (M. Vicanek, "Matched Second Order Digital Filters", 2016).
 */

const FIT_POINTS = 24;

/** Poles of filters that would ring for hours are moved in so far that rounding cannot make them unstable. */
const WIDEST_RADIUS = 1 - 1e-9;

/** Denominator 1 + a1 z⁻¹ + a2 z⁻² with the poles z = e^(sω0) of d0 + d1·s + d2·s². */
function matchedPoles([d0, d1, d2]: AnalogSection['denominator'], omega0: number): [number, number] {
  if (d2 === 0) return [-Math.exp((-d0 / d1) * omega0), 0];
  const real = -d1 / (2 * d2);
  const discriminant = real * real - d0 / d2;
  const radius = Math.min(WIDEST_RADIUS, Math.exp(real * omega0));
  if (discriminant < 0) return [-2 * radius * Math.cos(Math.sqrt(-discriminant) * omega0), radius * radius];
  const spread = Math.sqrt(discriminant) * omega0;
  // The slow real pole is computed on its own, so that it keeps its place when the two lie far apart.
  const slow = Math.exp((d0 / d2 / (real - Math.sqrt(discriminant))) * omega0);
  const fast = Math.exp(real * omega0 - spread);
  return [-(slow + fast), slow * fast];
}

/** Frequencies of the fit, relative to the band's, evenly spaced on the logarithmic axis up to the audible top. */
function fitRatios(frequencyHz: number, rateHz: number): number[] {
  const top = Math.min(AUDIBLE_TOP_HZ, rateHz * 0.48);
  const bottom = Math.min(frequencyHz / 4, top / 8);
  return Array.from(
    { length: FIT_POINTS },
    (_, i) => (bottom * (top / bottom) ** (i / (FIT_POINTS - 1))) / frequencyHz,
  );
}

/** A notch keeps its zero on the unit circle; its denominator equals the analog one at 0 Hz, half the rate and the lower edge. */
function matchNotch(analog: AnalogSection, omega0: number): Section {
  const numerator = powersOf(1, -2 * Math.cos(omega0), 1);
  const d1 = analog.denominator[1];
  const lowEdge = (Math.sqrt(d1 * d1 + 4) - d1) / 2;
  const edge = basis(lowEdge * omega0);
  const a0 = numerator[0];
  const a1 = numerator[1] / analogPower(analog, Math.PI / omega0);
  const a2 = (dot(numerator, edge) / analogPower(analog, lowEdge) - a0 * edge[0] - a1 * edge[1]) / edge[2];
  const [c0, c1, c2] = polynomialOf([a0, a1, a2]);
  return { b0: 1 / c0, b1: (-2 * Math.cos(omega0)) / c0, b2: 1 / c0, a1: c1 / c0, a2: c2 / c0 };
}

/** (1 − z⁻¹)(p + q z⁻¹): a zero at 0 Hz, and the other where the levels at the frequency and two octaves below want it. */
function matchBandPass(wantedPower: (ratio: number) => number, omega0: number, a1: number, a2: number): Section {
  // |p + q z⁻¹|² = (p + q)²·φ0 + (p − q)²·φ1
  const at = (ratio: number) => {
    const [p0, p1] = basis(ratio * omega0);
    return { p0, p1, wanted: wantedPower(ratio) / (4 * p1) };
  };
  const [low, center] = [at(0.25), at(1)];
  const determinant = low.p0 * center.p1 - center.p0 * low.p1;
  const sum = (low.wanted * center.p1 - center.wanted * low.p1) / determinant;
  const difference = (low.p0 * center.wanted - center.p0 * low.wanted) / determinant;
  const [plus, minus] = [Math.sqrt(Math.max(1e-12, sum)), Math.sqrt(Math.max(0.01 * Math.abs(sum), difference))];
  const [p, q] = [(plus + minus) / 2, (plus - minus) / 2];
  return { b0: p, b1: q - p, b2: -q, a1, a2 };
}

/** A section with a pair of zeros on the axis: they stay on the unit circle; the level is right at 0 Hz for a low-pass, well above the corner for a high-pass. */
function matchZeroPair(analog: AnalogSection, omega0: number): Section {
  const place = zeroPlace(analog, omega0);
  const [a1, a2] = matchedPoles(analog.denominator, omega0);
  const reference = hasZerosAbove(analog) ? 0 : Math.min(0.9 * Math.PI, 4 * omega0);
  const phi = basis(reference);
  const wanted = analogPower(analog, reference / omega0) * dot(powersOf(1, a1, a2), phi);
  const gain = Math.sqrt(wanted / dot(powersOf(1, -2 * Math.cos(place), 1), phi));
  return { b0: gain, b1: -2 * Math.cos(place) * gain, b2: gain, a1, a2 };
}

/**
 * A section that is near.
 * @param analog normalised to `frequencyHz`
 * @param keepsPair whether its pair of zeros on the axis stays on the unit circle
 */
export function firstMatch(analog: AnalogSection, frequencyHz: number, rateHz: number, keepsPair: boolean): Section {
  const omega0 = (2 * Math.PI * frequencyHz) / rateHz;
  const [n0, , n2] = analog.numerator;
  if (keepsPair) {
    const [d0, , d2] = analog.denominator;
    return n0 === n2 && d0 === d2 ? matchNotch(analog, omega0) : matchZeroPair(analog, omega0);
  }

  const [a1, a2] = matchedPoles(analog.denominator, omega0);
  const denominator = powersOf(1, a1, a2);
  const wantedPower = (ratio: number) => analogPower(analog, ratio) * dot(denominator, basis(ratio * omega0));
  const center = basis(omega0);
  const atCenter = wantedPower(1);

  if (n0 === 0) {
    // High-pass: as many zeros at 0 Hz as the analog section has, and the level of the corner.
    const first = Math.sqrt(atCenter / center[1]) / 2;
    if (n2 === 0 && analog.denominator[2] !== 0) return matchBandPass(wantedPower, omega0, a1, a2);
    if (n2 === 0) return { b0: first, b1: -first, b2: 0, a1, a2 };
    const second = Math.sqrt(atCenter) / (4 * center[1]);
    return { b0: second, b1: -2 * second, b2: second, a1, a2 };
  }

  const c0 = analogPower(analog, 0) * denominator[0];
  if (analog.denominator[2] === 0) {
    const c1 = (atCenter - c0 * center[0]) / center[1];
    const [b0, b1] = polynomialOf([c0, c1, 0]);
    return { b0, b1, b2: 0, a1, a2 };
  }

  // C1 = (atCenter − c0·φ0 − C2·φ2)/φ1 at the center leaves C2; one unknown in a weighted least-squares fit.
  const fixed = (atCenter - c0 * center[0]) / center[1];
  const slope = center[2] / center[1];
  let product = 0;
  let square = 0;
  for (const ratio of fitRatios(frequencyHz, rateHz)) {
    const phi = basis(ratio * omega0);
    const wanted = wantedPower(ratio);
    const direction = (phi[2] - slope * phi[1]) / wanted;
    product += direction * (1 - (c0 * phi[0] + fixed * phi[1]) / wanted);
    square += direction * direction;
  }
  const free = square > 0 ? product / square : 0;
  const largest = fixed / slope; // beyond it C1 would be negative, which no real numerator has
  const c2 = Math.min(free, largest);
  const [b0, b1, b2] = polynomialOf([c0, Math.max(0, fixed - slope * c2), c2]);
  return { b0, b1, b2, a1, a2 };
}

/** Roots of an analog polynomial that lie nearer to half the rate than this, or beyond it, begin as two that lie there; how narrow is tried. */
const HIGHEST_ROOT = 0.95 * Math.PI;
export const NEAR_THE_TOP: readonly [number, number][] = [
  [1, 0.25],
  [1.6, 0.64],
  [0.2, 0.01],
];

/** Zeros as well as poles in their matched places, the level right at 0 Hz: near where both of them are narrow. */
export function matchRoots(
  { numerator, denominator }: AnalogSection,
  omega0: number,
  nearTheTop: [number, number],
): Section {
  const placed = (polynomial: AnalogSection['numerator']): [number, number] =>
    omega0 * Math.sqrt(polynomial[0] / polynomial[2]) < HIGHEST_ROOT ? matchedPoles(polynomial, omega0) : nearTheTop;
  const [[c1, c2], [a1, a2]] = [placed(numerator), placed(denominator)];
  const gain = ((numerator[0] / denominator[0]) * (1 + a1 + a2)) / (1 + c1 + c2);
  return { b0: gain, b1: gain * c1, b2: gain * c2, a1, a2 };
}

/** An all-pass with poles in their matched places and zeros mirrored at the unit circle: the level is exactly 1 everywhere. */
export function matchAllPass(analog: AnalogSection, omega0: number): Section {
  const [a1, a2] = matchedPoles(analog.denominator, omega0);
  return { b0: a2, b1: a1, b2: 1, a1, a2 };
}
