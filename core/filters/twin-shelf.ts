import type { AnalogSection } from './analog';
import { highShelf, lowShelf } from './shelf';

/** How far the cutting shelf's corner lies from the band's, towards the middle of the spectrum. */
const CORNERS_APART = 4;
/** No cutting corner lies beyond these, Hz: there it would leave what can be heard. */
const HIGHEST_CUT_HZ = 16000;
const LOWEST_CUT_HZ = 40;
const Q = Math.SQRT1_2;

/** A section normalised to a frequency, normalised to another one, `ratio` times lower. */
function movedUp({ numerator: [n0, n1, n2], denominator: [d0, d1, d2] }: AnalogSection, ratio: number): AnalogSection {
  return {
    numerator: [n0, n1 / ratio, n2 / (ratio * ratio)],
    denominator: [d0, d1 / ratio, d2 / (ratio * ratio)],
  };
}

/**
 * A boosting and a cutting shelf at one setting that do not cancel: the boost at the band's frequency, the cut two octaves nearer to the
 * middle of the spectrum. Where both act, the boost is raised by `boost·cut/(boost + cut)`, so that it keeps its shelf and the cut leaves
 * its dip beyond the corner; either alone is a plain shelf. Both are of second order with Q = 1/√2 (Audio EQ Cookbook).
 * The definition is this project's own; that such pairs of shelves are used for firm lows without boom is common practice.
 * @param boostDb 0 to 18 dB
 * @param cutDb 0 to 18 dB
 * @param frequencyHz the band's frequency
 * @returns sections normalised to `frequencyHz`
 */
export function twinShelf(boostDb: number, cutDb: number, end: 'low' | 'high', frequencyHz: number): AnalogSection[] {
  const kept = boostDb + cutDb === 0 ? 0 : (boostDb * cutDb) / (boostDb + cutDb);
  const apart =
    end === 'low'
      ? Math.max(1, Math.min(CORNERS_APART, HIGHEST_CUT_HZ / frequencyHz))
      : 1 / Math.max(1, Math.min(CORNERS_APART, frequencyHz / LOWEST_CUT_HZ));
  const shelf = end === 'low' ? lowShelf : highShelf;
  const boost = boostDb === 0 ? [] : shelf(boostDb + kept, Q);
  const cut = cutDb === 0 ? [] : shelf(-cutDb, Q).map((section) => movedUp(section, apart));
  return [...boost, ...cut];
}
