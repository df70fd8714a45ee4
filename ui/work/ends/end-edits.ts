import {
  applyEdit,
  batch,
  bandsOf,
  isEnd,
  newBandSettings,
  type Band,
  type BandChanges,
  type Edit,
  type Song,
  type Strip,
} from '@/core/song';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ, type FrequencyScale } from '../../kit/axis/scale';
import { draggedOrder, stepHz, tidyHz, type StepSize } from '../../kit/gestures/steps';
import { makeBand, setBand } from '../../window/song/band-edits';

/** The ends of a track: what its pass filters leave open. Edits of gestures in the lane. */
export type PassType = 'high-pass' | 'low-pass';

/** The post that stands for an end: the first that is on and acts on everything. */
export function endBand(strip: Strip, type: PassType): Band | undefined {
  return bandsOf(strip).find((band) => band.type === type && isEnd(band));
}

const openEndHz: Record<PassType, number> = { 'high-pass': AXIS_LOW_HZ, 'low-pass': AXIS_HIGH_HZ };
/** Where a track is open, Hz: its posts, or the ends of the axis. */
export function endsOf(strip: Strip): { lowHz: number; highHz: number } {
  return {
    lowHz: endBand(strip, 'high-pass')?.frequencyHz ?? openEndHz['high-pass'],
    highHz: endBand(strip, 'low-pass')?.frequencyHz ?? openEndHz['low-pass'],
  };
}

/** A new post has this slope: 18 dB per octave. */
const NEW_ORDER = 3;

/** Moves the post of an end, or drives in a new one. */
function moveEnd(song: Song, strip: Strip, type: PassType, frequencyHz: number, newBandId: string): Edit | null {
  const band = endBand(strip, type);
  if (band) return setBand(song, strip.id, band.id, { frequencyHz });
  const made = makeBand(song, strip.id, { ...newBandSettings(type, frequencyHz), order: NEW_ORDER }, newBandId);
  return made?.edit ?? null;
}

const within = (axis: FrequencyScale, x: number) => Math.min(axis.width, Math.max(0, x));

/** A post that is dragged in from the edge of the lane, `dx` pixels. */
export function dragInEnd(
  song: Song,
  strip: Strip,
  type: PassType,
  dx: number,
  axis: FrequencyScale,
  newBandId: string,
): Edit | null {
  return moveEnd(song, strip, type, tidyHz(axis.hz(within(axis, axis.x(openEndHz[type]) + dx))), newBandId);
}

/** Vertical pixels of one order in a lane, after a stretch in which only the corner moves. */
const ORDER_PIXELS = 12;
const ORDER_SLOP = 14;

/** A post: sideways for the corner, up and down for the order. */
export function dragPost(band: Band, dx: number, dy: number, axis: FrequencyScale): BandChanges {
  return {
    frequencyHz: tidyHz(axis.hz(within(axis, axis.x(band.frequencyHz) + dx))),
    order: draggedOrder(band, dy, ORDER_SLOP, ORDER_PIXELS),
  };
}

/**
 * Both ends in one gesture: sideways moves both, up opens and down closes them. An end that was open stays so until the gesture
 * reaches it.
 */
export function dragBothEnds(
  song: Song,
  strip: Strip,
  dx: number,
  dy: number,
  axis: FrequencyScale,
  newBandIds: Record<PassType, string>,
): Edit | null {
  const place = (type: PassType) => axis.x(endBand(strip, type)?.frequencyHz ?? openEndHz[type]);
  const low = within(axis, place('high-pass') + dx + dy);
  const high = Math.max(low, within(axis, place('low-pass') + dx - dy));
  const edits: Edit[] = [];
  let current = song;
  for (const [type, x] of [
    ['high-pass', low],
    ['low-pass', high],
  ] as const) {
    const isOpen = !endBand(strip, type) && (type === 'high-pass' ? x <= 0 : x >= axis.width);
    const edit = isOpen ? null : moveEnd(current, strip, type, tidyHz(axis.hz(x)), newBandIds[type]);
    if (!edit) continue;
    edits.push(edit);
    current = applyEdit(current, edit);
  }
  return batch(edits);
}

/** An arrow key for both ends: sideways moves both by as much as a key moves a post, up opens, down closes. */
export function stepBothEnds(
  song: Song,
  strip: Strip,
  arrow: { axis: 'x' | 'y'; direction: 1 | -1 },
  size: StepSize,
  axis: FrequencyScale,
  newBandIds: Record<PassType, string>,
): Edit | null {
  const pixels = arrow.direction * (axis.x(stepHz(1000, 1, size)) - axis.x(1000));
  return arrow.axis === 'x'
    ? dragBothEnds(song, strip, pixels, 0, axis, newBandIds)
    : dragBothEnds(song, strip, 0, -pixels, axis, newBandIds);
}
