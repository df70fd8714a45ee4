import { analogMagnitudeDb, analogPower, type AnalogSection } from './analog';
import { errorDb, refine, type Aim, type MovingSection, type NumeratorShape } from './refine';
import type { Section } from './section';

/**
 * Turns an analog section into a digital one whose magnitude follows it up to the top of the audible range, where the
 * plain bilinear transform cramps towards half the sample rate.
 *
 * The squared magnitude of a digital polynomial c0 + c1 z⁻¹ + c2 z⁻² is linear in three numbers:
 * `|C|² = C0·φ0 + C1·φ1 + C2·φ2` with `φ0 = cos²(ω/2)`, `φ1 = sin²(ω/2)`, `φ2 = 4·φ0·φ1`,
 * `C0 = (c0+c1+c2)²`, `C1 = (c0−c1+c2)²`, `C2 = −4·c0·c2`. So a numerator follows a wanted magnitude by linear equations.
 * Source: M. Vicanek, "Matched Second Order Digital Filters", 2016. Poles are the exact images z = e^(sT) of the analog
 * poles; the numerator equals the analog magnitude at 0 Hz and at the band's own frequency, and the freedom that is left
 * is spent on the least squared relative error over the audible range.
 */
type Powers = readonly [number, number, number];

const FIT_POINTS = 24;
const AUDIBLE_TOP_HZ = 20000;

function basis(omega: number): Powers {
  const p1 = Math.sin(omega / 2) ** 2;
  const p0 = 1 - p1;
  return [p0, p1, 4 * p0 * p1];
}

const dot = (c: Powers, p: Powers) => c[0] * p[0] + c[1] * p[1] + c[2] * p[2];

function powersOf(c0: number, c1: number, c2: number): Powers {
  return [(c0 + c1 + c2) ** 2, (c0 - c1 + c2) ** 2, -4 * c0 * c2];
}

/** The minimum-phase polynomial whose squared magnitude is given; what no real polynomial can have is moved to the nearest edge. */
function polynomialOf([p0, p1, p2]: Powers): [number, number, number] {
  const root0 = Math.sqrt(Math.max(p0, 0));
  const root1 = Math.sqrt(Math.max(p1, 0));
  const w = (root0 + root1) / 2;
  const c0 = (w + Math.sqrt(Math.max(w * w + p2, 0))) / 2;
  return [c0, (root0 - root1) / 2, c0 === 0 ? 0 : -p2 / (4 * c0)];
}

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

/** Where the zeros of a section with a pair of them on the axis lie in the digital domain, radians per sample. */
const zeroPlace = ({ numerator: [n0, , n2] }: AnalogSection, omega0: number) => omega0 * Math.sqrt(n0 / n2);

/** Zeros nearer to half the rate than this, or beyond it, have no place of their own on the unit circle: which of the two fits better is tried. */
const HIGHEST_ZEROS = [0.97 * Math.PI, 0.85 * Math.PI];

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

/** True for a low-pass section with zeros above its corner. */
const hasZerosAbove = ({ numerator: [n0, n1, n2], denominator: [d0, , d2] }: AnalogSection) =>
  n0 !== 0 && n1 === 0 && n2 !== 0 && n0 / d0 > n2 / d2;

/** True for a section that keeps a pair of zeros on the unit circle. */
const keepsZeroPair = (analog: AnalogSection, omega0: number, highestZero: number) => {
  const [n0, n1, n2] = analog.numerator;
  return n0 !== 0 && n1 === 0 && n2 !== 0 && zeroPlace(analog, omega0) < highestZero;
};

const isAllPass = ({ numerator: [n0, n1, n2], denominator: [d0, d1, d2] }: AnalogSection) =>
  n0 === d0 && n1 === -d1 && n2 === d2;

const FREE: NumeratorShape = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** Which numerators keep the zeros that an analog section has at 0 Hz or on the axis. A first-order section gets a second pole to fit with. */
function shapeOf(analog: AnalogSection, omega0: number, highestZero: number): NumeratorShape {
  const [n0, n1] = analog.numerator;
  if (n0 === 0 && n1 === 0) return [[1, -2, 1]];
  if (n0 === 0) {
    return [
      [1, -1, 0],
      [0, 1, -1],
    ];
  }
  if (keepsZeroPair(analog, omega0, highestZero)) return [[1, -2 * Math.cos(zeroPlace(analog, omega0)), 1]];
  return FREE;
}

const POINTS = 36;
const PEAK_POINTS = 5;
const LOWEST_HZ = 20;
/** What lies deeper than this is not followed: nobody hears it, and a zero would draw the whole fit to itself. */
const DEEPEST_DB = -45;
/** A whole filter that is farther off than this gets a section more, or two, dB. */
const WANTED_DB = 0.05;

/** The levels that some analog sections want of their digital ones, where they can be heard: half of the points are even on the logarithmic axis, half on the linear one, and the surroundings of each peak and dip have their own. */
function aimOf(analog: readonly AnalogSection[], frequencyHz: number, rateHz: number): Aim {
  const topHz = Math.min(AUDIBLE_TOP_HZ, rateHz * 0.48);
  const bottomHz = Math.min(LOWEST_HZ, frequencyHz / 16);
  const list = [0];
  for (let i = 0; i < POINTS / 2; i++) {
    const share = i / (POINTS / 2 - 1);
    list.push(bottomHz * (topHz / bottomHz) ** share, bottomHz + (topHz - bottomHz) * share);
  }
  for (const [c0, c1, c2] of analog.flatMap(({ numerator, denominator }) => [denominator, numerator])) {
    if (c0 === 0 || c1 === 0 || c2 === 0) continue;
    const peakHz = frequencyHz * Math.sqrt(c0 / c2);
    const halfWidth = Math.min(1, c1 / Math.sqrt(c0 * c2));
    for (let k = -PEAK_POINTS; k <= PEAK_POINTS; k++) {
      const hz = peakHz * (1 + halfWidth) ** ((1.6 * k) / PEAK_POINTS);
      if (hz < topHz) list.push(hz);
    }
  }
  const omegas: number[] = [];
  const levelsDb: number[] = [];
  for (const hz of list) {
    const levelDb = analogMagnitudeDb(analog, frequencyHz, hz);
    if (levelDb < DEEPEST_DB) continue;
    omegas.push((2 * Math.PI * hz) / rateHz);
    levelsDb.push(levelDb);
  }
  return { omegas, levelsDb };
}

/** A section that is near, in closed form: what the refinement begins with. Exported for the table that compares methods. */
export function firstMatch(analog: AnalogSection, frequencyHz: number, rateHz: number, highestZero: number): Section {
  const omega0 = (2 * Math.PI * frequencyHz) / rateHz;
  const [n0, , n2] = analog.numerator;
  if (keepsZeroPair(analog, omega0, highestZero)) {
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
const NEAR_THE_TOP: readonly [number, number][] = [
  [1, 0.25],
  [1.6, 0.64],
  [0.2, 0.01],
];

/** Zeros as well as poles in their matched places, the level right at 0 Hz: near where both of them are narrow. */
function matchRoots({ numerator, denominator }: AnalogSection, omega0: number, nearTheTop: [number, number]): Section {
  const placed = (polynomial: AnalogSection['numerator']): [number, number] =>
    omega0 * Math.sqrt(polynomial[0] / polynomial[2]) < HIGHEST_ROOT ? matchedPoles(polynomial, omega0) : nearTheTop;
  const [[c1, c2], [a1, a2]] = [placed(numerator), placed(denominator)];
  const gain = ((numerator[0] / denominator[0]) * (1 + a1 + a2)) / (1 + c1 + c2);
  return { b0: gain, b1: gain * c1, b2: gain * c2, a1, a2 };
}

/**
 * A digital section of an analog one that may still move: matched first, then refined to an equal ripple.
 * @param analog normalised to `frequencyHz`
 * @param frequencyHz the band's frequency, above 0 and below half of `rateHz`
 * @param rateHz sample rate
 */
export function matchSection(
  analog: AnalogSection,
  frequencyHz: number,
  rateHz: number,
  highestZero: number,
): MovingSection {
  const omega0 = (2 * Math.PI * frequencyHz) / rateHz;
  const shape = shapeOf(analog, omega0, highestZero);
  const aim = aimOf([analog], frequencyHz, rateHz);
  const refined = (section: Section) => refine([{ section, shape, widestPole: 0.99999 }], aim, WANTED_DB / 3);
  let best = refined(firstMatch(analog, frequencyHz, rateHz, highestZero));
  for (const nearTheTop of NEAR_THE_TOP) {
    if (best.errorDb <= WANTED_DB || shape !== FREE) break;
    const other = refined(matchRoots(analog, omega0, nearTheTop));
    if (other.errorDb < best.errorDb) best = other;
  }
  return { section: best.sections[0], shape, widestPole: 0.99999 };
}

/** Sections that start as wires and may become whatever brings a filter nearer, with nothing in them that rings. */
const CORRECTIONS = [
  { b0: 1, b1: 0.5, b2: 0.06, a1: 0.5, a2: 0.06 },
  { b0: 1, b1: 1.2, b2: 0.36, a1: 1.2, a2: 0.36 },
].map((section): MovingSection => ({ section, shape: FREE, widestPole: 0.9 }));

interface Matched {
  sections: Section[];
  errorDb: number;
}

/** Sections that are each near their own, brought nearer to what is wanted of them together where they are not near enough. */
function matchTogether(matched: readonly MovingSection[], aim: Aim, fewestCorrections = 1): Matched {
  const sections = matched.map((moving) => moving.section);
  let best = { sections, errorDb: errorDb(sections, aim) };
  for (
    let corrections = fewestCorrections;
    corrections <= CORRECTIONS.length && best.errorDb > WANTED_DB;
    corrections++
  ) {
    const together = refine([...matched, ...CORRECTIONS.slice(0, corrections)], aim, WANTED_DB / 2);
    if (together.errorDb < best.errorDb) best = together;
  }
  return best;
}

/** An all-pass with poles in their matched places and zeros mirrored at the unit circle: the level is exactly 1 everywhere. */
function matchAllPass(analog: AnalogSection, omega0: number): Section {
  const [a1, a2] = matchedPoles(analog.denominator, omega0);
  return { b0: a2, b1: a1, b2: 1, a1, a2 };
}

/** The same level with no zero outside the unit circle, as the analog one has none to the right: a pair is mirrored at the circle. */
function inMinimumPhase(section: Section): Section {
  const { b0, b1, b2 } = section;
  if (b0 === 0) return section;
  const split = (b1 * b1) / 4 - b0 * b2;
  if (split <= 0) return Math.abs(b2) > Math.abs(b0) ? { ...section, b0: b2, b2: b0 } : section;
  // b0·(1 − r z⁻¹)(1 − s z⁻¹), and 1 − r z⁻¹ is as loud as r − z⁻¹.
  const roots = [(-b1 / 2 + Math.sqrt(split)) / b0, (-b1 / 2 - Math.sqrt(split)) / b0];
  const inside = roots.map((root) => (Math.abs(root) > 1 ? 1 / root : root));
  const gain = roots.reduce((product, root) => (Math.abs(root) > 1 ? product * Math.abs(root) : product), b0);
  return { ...section, b0: gain, b1: -gain * (inside[0] + inside[1]), b2: gain * inside[0] * inside[1] };
}

/** Above this share of the rate a filter has no place of its own. */
const HIGHEST_SHARE_OF_RATE = 0.495;

/** True where a filter lies so near to half of the rate, or above it, that it is followed only as far as it can be heard. */
export const isBeyond = (frequencyHz: number, rateHz: number) => frequencyHz > HIGHEST_SHARE_OF_RATE * rateHz;

/** A filter that lies above the highest place: it begins as it would be there, and is fitted to what it does below. */
function matchBeyond(analog: readonly AnalogSection[], frequencyHz: number, rateHz: number): Section[] {
  const highestHz = HIGHEST_SHARE_OF_RATE * rateHz;
  const omega0 = (2 * Math.PI * highestHz) / rateHz;
  const aim = aimOf(analog, frequencyHz, rateHz);
  const begun = analog.map((section): MovingSection => {
    const shape = shapeOf(section, omega0, 0);
    return { section: firstMatch(section, highestHz, rateHz, 0), shape, widestPole: 0.99 };
  });
  return matchTogether(begun, aim, 0).sections.map(inMinimumPhase);
}

/**
 * The digital sections of a whole filter.
 * @param analog its sections, normalised to `frequencyHz`; that may lie above half of the rate
 */
export function matchSections(analog: readonly AnalogSection[], frequencyHz: number, rateHz: number): Section[] {
  const omega0 = (2 * Math.PI * Math.min(frequencyHz, HIGHEST_SHARE_OF_RATE * rateHz)) / rateHz;
  if (analog.every(isAllPass)) return analog.map((section) => matchAllPass(section, omega0));
  if (isBeyond(frequencyHz, rateHz)) return matchBeyond(analog, frequencyHz, rateHz);
  const aim = aimOf(analog, frequencyHz, rateHz);
  let best: Matched | undefined;
  const consider = (matched: readonly MovingSection[]) => {
    const together = matchTogether(matched, aim);
    if (!best || together.errorDb < best.errorDb) best = together;
    return best.errorDb <= WANTED_DB;
  };
  for (const highestZero of HIGHEST_ZEROS) {
    const matched = analog.map((section) => matchSection(section, frequencyHz, rateHz, highestZero));
    if (consider(matched)) break;
    const isFree = matched.every(({ shape }) => shape === FREE);
    if (
      isFree &&
      consider(matched.map((moving, i) => ({ ...moving, section: matchRoots(analog[i], omega0, NEAR_THE_TOP[0]) })))
    )
      break;
    if (!analog.some((section) => keepsZeroPair(section, omega0, highestZero))) break;
  }
  return best!.sections.map(inMinimumPhase);
}
