import { bandEdgesHz, qFromBandwidth } from '@/core/filters';
import {
  GAIN_RANGE_DB,
  GIVES_WAY,
  hasGain,
  hasQ,
  isPassFilter,
  TWIN_RANGE_DB,
  type Band,
  type BandChanges,
} from '@/core/song';
import type { FrequencyScale } from '../../kit/axis/scale';
import {
  draggedOrder,
  stepDb,
  stepHz,
  stepOrder,
  stepQ,
  tidyDb,
  tidyHz,
  tidyQ,
  type StepSize,
} from '../../kit/gestures/steps';
import type { DragMove } from '../../kit/gestures/drag';
import { farthestDb } from './band-sign';
import type { BenchScale } from './bench-scale';

/** What dragging a part of a handle, or pressing a key on it, changes of its band. Pure: the gesture begins at `band`. */

/** Vertical pixels of one order of a pass filter, after a first stretch in which only the corner moves. */
const ORDER_PIXELS = 22;
const ORDER_SLOP = 16;

/** The cap: frequency, and gain or order. */
export function dragCap(
  band: Band,
  move: Pick<DragMove, 'dx' | 'dy'>,
  axis: FrequencyScale,
  scale: BenchScale,
): BandChanges {
  const x = Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz) + move.dx));
  const changes: BandChanges = { frequencyHz: tidyHz(axis.hz(x)) };
  if (hasGain(band.type)) {
    const inView = {
      min: Math.max(GAIN_RANGE_DB.min, -scale.rangeDb),
      max: Math.min(GAIN_RANGE_DB.max, scale.rangeDb),
    };
    changes.gainDb = tidyDb(scale.db(scale.y(band.gainDb) + move.dy), inView);
  }
  if (band.type === 'twin-shelf') Object.assign(changes, dragTwinArm(band, 'boostDb', move.dy, scale));
  if (isPassFilter(band.type)) changes.order = draggedOrder(band, move.dy, ORDER_SLOP, ORDER_PIXELS);
  return changes;
}

/** The far cap of a band that gives way: how far it goes from where it rests. */
export function dragFar(band: Band, dy: number, scale: BenchScale): BandChanges {
  const far = scale.db(scale.y(farthestDb(band)) + dy);
  return { givesWay: { amountDb: tidyDb(far - band.gainDb, GIVES_WAY.amountDb) } };
}

export const stepFar = (band: Band, direction: 1 | -1, size: StepSize): BandChanges => ({
  givesWay: { amountDb: stepDb(band.givesWay!.amountDb, direction, size, GIVES_WAY.amountDb) },
});

/** An end of the bar, or of the hoop: both edges move alike on the logarithmic axis, the centre stays. */
export function dragEdge(band: Band, edge: -1 | 1, dx: number, axis: FrequencyScale): BandChanges {
  const { lowHz, highHz } = bandEdgesHz(band.frequencyHz, band.q);
  const x = axis.x(edge < 0 ? lowHz : highHz) + dx;
  const octaves = 2 * Math.max(0.001, edge * Math.log2(axis.hz(x) / band.frequencyHz));
  return { q: tidyQ(qFromBandwidth(octaves)) };
}

/** The end of a shelf's arm: gain only. */
export function dragArm(band: Band, dy: number, scale: BenchScale): BandChanges {
  return { gainDb: tidyDb(scale.db(scale.y(band.gainDb) + dy), GAIN_RANGE_DB) };
}

/** An arm of a twin shelf: up is more boost, down is more cut. */
export function dragTwinArm(band: Band, field: 'boostDb' | 'cutDb', dy: number, scale: BenchScale): BandChanges {
  const sign = field === 'boostDb' ? 1 : -1;
  const startY = scale.y(sign * band[field]);
  return { [field]: tidyDb(sign * scale.db(startY + dy), TWIN_RANGE_DB) };
}

/** An arrow key on an arm of a twin shelf: the arm goes where the arrow points. */
export function stepTwinArm(band: Band, field: 'boostDb' | 'cutDb', direction: 1 | -1, size: StepSize): BandChanges {
  const more = field === 'boostDb' ? direction : direction === 1 ? -1 : 1;
  return { [field]: stepDb(band[field], more, size, TWIN_RANGE_DB) };
}

/** An arrow key on a cap. */
export function stepCap(band: Band, axis: 'x' | 'y', direction: 1 | -1, size: StepSize): BandChanges | null {
  if (axis === 'x') return { frequencyHz: stepHz(band.frequencyHz, direction, size) };
  if (hasGain(band.type)) return { gainDb: stepDb(band.gainDb, direction, size, GAIN_RANGE_DB) };
  if (isPassFilter(band.type)) return { order: stepOrder(band, direction) };
  return band.type === 'twin-shelf' ? stepTwinArm(band, 'boostDb', direction, size) : null;
}

/** @param direction +1 wider */
export function stepWidth(band: Band, direction: 1 | -1, size: StepSize): BandChanges | null {
  const isResonant = isPassFilter(band.type) && band.family === 'resonant';
  return hasQ(band.type) || isResonant ? { q: stepQ(band.q, direction, size) } : null;
}

/** An arrow key on an end of the bar: the edge goes where the arrow points. */
export function stepEdge(band: Band, edge: -1 | 1, direction: 1 | -1, size: StepSize): BandChanges {
  return { q: stepQ(band.q, direction === edge ? 1 : -1, size) };
}
