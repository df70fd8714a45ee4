import type { AnalogSection } from '../analog';
import { errorDb, refine, type Aim, type MovingSection } from '../refine';
import type { Section } from '../section';
import { aimOf } from './aim';
import { firstMatch, matchAllPass, matchRoots, NEAR_THE_TOP } from './closed-form';
import { FREE, hasZeroPair, shapeOf, zeroPlace } from './numerators';

/**
 * Turns analog sections into digital ones whose magnitude follows them up to the top of the audible range, where the plain bilinear
 * transform cramps towards half the sample rate: in closed form first (`closed-form.ts`), then refined to an equal ripple.
 */

/** A whole filter that is farther off than this gets a section more, or two, dB. */
const WANTED_DB = 0.05;

/**
 * Zeros nearer to half the rate than this, or beyond it, have no place of their own on the unit circle, radians per sample: which of the
 * two fits better is tried.
 */
const HIGHEST_ZEROS = [0.97 * Math.PI, 0.85 * Math.PI];

/** True where a section has a pair of zeros on the axis that lies low enough for a place on the unit circle. */
const keepsZeroPair = (analog: AnalogSection, omega0: number, highestZero: number) =>
  hasZeroPair(analog) && zeroPlace(analog, omega0) < highestZero;

const isAllPass = ({ numerator: [n0, n1, n2], denominator: [d0, d1, d2] }: AnalogSection) =>
  n0 === d0 && n1 === -d1 && n2 === d2;

/**
 * A digital section of an analog one that may still move: matched first, then refined to an equal ripple.
 * @param analog normalised to `frequencyHz`
 * @param frequencyHz the band's frequency, above 0 and below half of `rateHz`
 * @param rateHz sample rate
 * @param keepsPair whether its pair of zeros on the axis stays on the unit circle
 */
export function matchSection(
  analog: AnalogSection,
  frequencyHz: number,
  rateHz: number,
  keepsPair: boolean,
): MovingSection {
  const omega0 = (2 * Math.PI * frequencyHz) / rateHz;
  const shape = shapeOf(analog, omega0, keepsPair);
  const aim = aimOf([analog], frequencyHz, rateHz);
  const refined = (section: Section) => refine([{ section, shape, widestPole: 0.99999 }], aim, WANTED_DB / 3);
  let best = refined(firstMatch(analog, frequencyHz, rateHz, keepsPair));
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
    const shape = shapeOf(section, omega0, false);
    return { section: firstMatch(section, highestHz, rateHz, false), shape, widestPole: 0.99 };
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
    const keepsPair = (section: AnalogSection) => keepsZeroPair(section, omega0, highestZero);
    const matched = analog.map((section) => matchSection(section, frequencyHz, rateHz, keepsPair(section)));
    if (consider(matched)) break;
    const isFree = matched.every(({ shape }) => shape === FREE);
    if (
      isFree &&
      consider(matched.map((moving, i) => ({ ...moving, section: matchRoots(analog[i], omega0, NEAR_THE_TOP[0]) })))
    )
      break;
    if (!analog.some(keepsPair)) break;
  }
  return best!.sections.map(inMinimumPhase);
}
