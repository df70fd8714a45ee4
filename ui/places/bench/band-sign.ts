import { bandEdgesHz, legalOrder } from '@/core/filters';
import { GAIN_RANGE_DB, givesWay, isPassFilter, type Band } from '@/core/song';
import type { FrequencyScale } from '../../kit/axis/scale';
import { liftOf, postPaths, type SignPaths } from '../../kit/signs/post';
import type { BenchScale } from './bench-scale';

/** How far the cap of a notch stands above the line of 0 dB, and its pin reaches below. */
const PIN = { above: 38, below: 46 };
/** The lintel of a band-pass above the line of 0 dB, the reach of a tilt's beam. */
const GATE_HEIGHT = 22;
const BEAM_PIXELS = 58;
const POST_TOP = 9;
/** How far the arm of a shelf reaches. */
export const ARM_PIXELS = 58;

/** Height at which the cap stands: beyond the sign's end, within the field. */
export function capHeight(band: Band, scale: BenchScale): number {
  if (isPassFilter(band.type)) return scale.height - 11;
  if (band.type === 'notch' || band.type === 'band-pass' || band.type === 'all-pass') return scale.y(0) - PIN.above;
  if (band.type === 'twin-shelf') return Math.max(9, scale.y(band.boostDb) - 12);
  if (band.type === 'tilt') return scale.y(0) - 18 - Math.abs(scale.y(0) - scale.y(band.gainDb / 2));
  const y = scale.y(band.gainDb) + (band.gainDb < 0 ? 10 : -10);
  return Math.min(scale.height - 9, Math.max(9, y));
}

/** Height of the ends that are dragged for the width; null for kinds whose width has no edges. */
export function edgeHeight(band: Band, scale: BenchScale): number | null {
  if (band.type === 'bell') return scale.y(band.gainDb / 2);
  if (band.type === 'notch') return scale.y(0);
  return band.type === 'band-pass' ? scale.y(0) - GATE_HEIGHT / 2 : null;
}

/** In tenths of a pixel, so that the path of what only moves sideways stays the same. */
const px = (pixels: number) => Math.round(pixels * 10) / 10;
const line = (x1: number, y1: number, x2: number, y2: number) => `M${px(x1)} ${px(y1)}L${px(x2)} ${px(y2)}`;

/** What is drawn of a band about its place: a T-bar, a stem, a post, a pin, a gate, a turn, a see-saw. Its shape tells the kind. */
export function bandSign(band: Band, axis: FrequencyScale, scale: BenchScale): SignPaths {
  const x = placeOf(band, axis);
  const zero = scale.y(0);
  const { lowHz, highHz } = bandEdgesHz(band.frequencyHz, band.q);
  const [left, right] = [px(axis.x(lowHz) - x), px(axis.x(highHz) - x)];
  const lines = (...all: string[]): SignPaths => ({ lines: all.join(''), fills: '' });
  switch (band.type) {
    case 'bell':
      return lines(
        line(0, zero, 0, scale.y(band.gainDb)),
        line(left, scale.y(band.gainDb / 2), right, scale.y(band.gainDb / 2)),
      );
    case 'low-shelf':
    case 'high-shelf':
      return lines(line(0, zero, 0, scale.y(band.gainDb)));
    case 'twin-shelf':
      return lines(line(0, scale.y(band.boostDb), 0, scale.y(-band.cutDb)));
    case 'notch': {
      const reach = Math.max(5, px((right - left) / 2));
      const hoop = `M${-reach} ${zero}a${reach} 6 0 1 0 ${2 * reach} 0a${reach} 6 0 1 0 ${-2 * reach} 0`;
      return lines(line(0, zero - PIN.above + 7, 0, zero + PIN.below), hoop);
    }
    case 'band-pass':
      return lines(`M${left} ${zero}V${zero - GATE_HEIGHT}H${right}V${zero}`);
    case 'all-pass':
      return lines(`M-9 ${zero - 7}A11 11 0 1 1 -4 ${zero + 10}m5 -6l-5 6l6 4`);
    case 'tilt': {
      const rise = zero - scale.y(band.gainDb / 2);
      return lines(line(-BEAM_PIXELS, zero + rise, BEAM_PIXELS, zero - rise), `M0 ${zero}l-7 11h14z`);
    }
    case 'high-pass':
    case 'low-pass': {
      const order = legalOrder(band.family, band.order);
      return postPaths({ type: band.type, order, height: scale.height - 28, barb: 13, lift: liftOf(band) });
    }
  }
}

/** Where a band stands in the field, pixels from its left. */
export const placeOf = (band: Band, axis: FrequencyScale) =>
  Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz)));

/** The gain of a band that gives way at its farthest place, dB. */
export const farthestDb = ({ gainDb, givesWay }: Band) =>
  Math.min(GAIN_RANGE_DB.max, Math.max(GAIN_RANGE_DB.min, gainDb + (givesWay?.amountDb ?? 0)));

/** How far down a sign is drawn: a post hangs from under the top of the field. */
const signTop = (band: Band) => (isPassFilter(band.type) ? POST_TOP : 0);

/** A point of the field, pixels. */
export interface Place {
  x: number;
  y: number;
}

const capPlace = (band: Band, axis: FrequencyScale, scale: BenchScale): Place => ({
  x: placeOf(band, axis),
  y: capHeight(band, scale),
});

/** Nearer places are one, pixels. */
const LEAST_APART = 3;

/** Bands that a passage holds elsewhere than in the song: where the cap of each stands, and where it would stand as it is now. */
export const heldElsewhere = (
  now: readonly Band[],
  resting: readonly Band[],
  axis: FrequencyScale,
  scale: BenchScale,
): { id: string; from: Place; to: Place }[] =>
  now.flatMap((band) => {
    const rest = resting.find(({ id }) => id === band.id);
    if (!rest || rest === band || !band.enabled) return [];
    const [from, to] = [capPlace(rest, axis, scale), capPlace(band, axis, scale)];
    return Math.hypot(to.x - from.x, to.y - from.y) < LEAST_APART ? [] : [{ id: band.id, from, to }];
  });

/** The parts of a handle that can be taken hold of, and where each stands. */
export type HandlePartName = 'cap' | 'edge-low' | 'edge-high' | 'arm' | 'boost' | 'cut' | 'far' | 'now';

/** Where everything of a handle stands. @param isHidden true while the gain is not to be seen: the cap stands at 0 dB */
export function handlePlaces(
  band: Band,
  axis: FrequencyScale,
  scale: BenchScale,
  isHidden = false,
): { sign: Place; parts: Partial<Record<HandlePartName, Place>> } {
  const x = placeOf(band, axis);
  const parts: Partial<Record<HandlePartName, Place>> = {
    cap: { x, y: isHidden ? scale.y(0) : capHeight(band, scale) },
  };
  const edgeY = edgeHeight(band, scale);
  if (edgeY !== null) {
    const edges = bandEdgesHz(band.frequencyHz, band.q);
    const least = band.type === 'notch' ? 5 : 0;
    parts['edge-low'] = { x: Math.min(axis.x(edges.lowHz), x - least), y: edgeY };
    parts['edge-high'] = { x: Math.max(axis.x(edges.highHz), x + least), y: edgeY };
  }
  if (band.type === 'low-shelf' || band.type === 'high-shelf') parts.arm = { x, y: scale.y(band.gainDb) };
  if (givesWay(band)) {
    parts.far = { x, y: scale.y(farthestDb(band)) };
    parts.now = { x, y: scale.y(band.gainDb) };
  }
  if (band.type === 'twin-shelf') {
    parts.boost = { x, y: scale.y(band.boostDb) };
    parts.cut = { x, y: scale.y(-band.cutDb) };
  }
  return { sign: { x, y: signTop(band) }, parts };
}
