import { bandEdgesHz } from '@/core/filters';
import { newBandSettings, type Band } from '@/core/song';
import { frequencyScale } from '../../kit/axis/scale';
import { heldElsewhere } from './band-sign';
import { benchScale, rangeFor } from './bench-scale';
import { labelOffset } from './draw-bench';
import { dragArm, dragCap, dragEdge, stepCap, stepEdge, stepWidth } from './handle-edits';

const axis = frequencyScale(900); // 300 pixels a decade
const scale = benchScale(18, 300);
const band = (changes: Partial<Band> = {}): Band => ({
  ...newBandSettings('bell', 1000),
  id: 'b',
  letter: 'B',
  ...changes,
});

test('the scale: 0 dB in the middle, up is louder, there and back again', () => {
  expect(scale.y(0)).toBe(150);
  expect(scale.y(6)).toBeLessThan(scale.y(0));
  expect(scale.db(scale.y(-7.3))).toBeCloseTo(-7.3, 9);
  expect(scale.y(18)).toBeGreaterThan(0);
  expect(scale.ticksDb).toEqual([-12, -6, 0, 6, 12]);
});

test('labels stand above their lines, or below where a curve runs through one of them there', () => {
  const lines = [50, 100, 150];
  expect(labelOffset(lines, [])).toBe(-4);
  expect(labelOffset(lines, [72])).toBe(-4);
  // A shelf of 2 dB at the end of the field.
  expect(labelOffset(lines, [141, 140, 139])).toBe(12);
  // What dips, and what is flat, stays clear of what is above.
  expect(labelOffset(lines, [158, 160])).toBe(-4);
  for (const y of [149.4, 150, 150.6]) expect(labelOffset(lines, [y])).toBe(-4);
});

test('the range holds every gain with some air', () => {
  expect(rangeFor([])).toBe(18);
  expect(rangeFor([{ gainDb: -17.5 }])).toBe(18);
  expect(rangeFor([{ gainDb: 18 }])).toBe(36);
  expect(rangeFor([{ gainDb: 36 }])).toBe(36);
});

test('a cap dragged a decade to the right and 6 dB up', () => {
  expect(dragCap(band(), { dx: 300, dy: scale.y(6) - scale.y(0) }, axis, scale)).toEqual({
    frequencyHz: 10000,
    gainDb: 6,
  });
});

test('a cap stays within the field and its range', () => {
  expect(dragCap(band(), { dx: 5000, dy: -9000 }, axis, scale)).toEqual({ frequencyHz: 20000, gainDb: 18 });
  expect(dragCap(band(), { dx: -5000, dy: 9000 }, axis, scale)).toEqual({ frequencyHz: 20, gainDb: -18 });
});

test('a post: sideways the corner alone, far enough up or down the order', () => {
  const post = band({ type: 'high-pass', order: 2 });
  expect(dragCap(post, { dx: -300, dy: 10 }, axis, scale)).toEqual({ frequencyHz: 100, order: 2 });
  expect(dragCap(post, { dx: 0, dy: -60 }, axis, scale)).toMatchObject({ order: 4 });
  expect(dragCap(post, { dx: 0, dy: 900 }, axis, scale)).toMatchObject({ order: 1 });
  expect(dragCap(post, { dx: 0, dy: -900 }, axis, scale)).toMatchObject({ order: 16 });
});

test.each([-1, 1] as const)('the edge (%i) of a bell lands where it is dragged, and the centre stays', (edge) => {
  const before = bandEdgesHz(1000, 1);
  const x = axis.x(edge < 0 ? before.lowHz : before.highHz);
  const { q } = dragEdge(band({ q: 1 }), edge, edge * 60, axis);
  const after = bandEdgesHz(1000, q!);
  expect(axis.x(edge < 0 ? after.lowHz : after.highHz)).toBeCloseTo(x + edge * 60, 0);
});

test('an edge dragged over the centre is as narrow as can be, and never turns round', () => {
  expect(dragEdge(band(), 1, -2000, axis).q).toBe(100);
});

test('an arm changes the gain alone', () => {
  expect(dragArm(band({ type: 'low-shelf', gainDb: 2 }), scale.y(0) - scale.y(2), scale)).toEqual({ gainDb: 0 });
});

test('keys: plain, fine and coarse', () => {
  expect(stepCap(band(), 'x', 1, 'coarse')!.frequencyHz).toBeCloseTo(1260, 0);
  expect(stepCap(band(), 'x', -1, 'fine')!.frequencyHz).toBeCloseTo(994.2, 1);
  expect(stepCap(band(), 'y', 1, 'plain')).toEqual({ gainDb: 0.5 });
  expect(stepCap(band({ type: 'low-pass', order: 16 }), 'y', 1, 'plain')).toEqual({ order: 16 });
  expect(stepCap(band({ type: 'low-pass', family: 'linkwitz-riley', order: 4 }), 'y', 1, 'plain')).toEqual({
    order: 6,
  });
  expect(stepWidth(band({ type: 'low-pass', family: 'resonant', q: 2 }), -1, 'plain')!.q).toBeGreaterThan(2);
  expect(stepCap(band({ type: 'notch' }), 'y', 1, 'plain')).toBeNull();
  expect(stepWidth(band({ q: 1 }), 1, 'plain')!.q).toBeLessThan(1);
  expect(stepWidth(band({ type: 'high-pass' }), 1, 'plain')).toBeNull();
  expect(stepEdge(band({ q: 1 }), -1, -1, 'plain').q).toBeLessThan(1);
  expect(stepEdge(band({ q: 1 }), 1, -1, 'plain').q).toBeGreaterThan(1);
});

test('a band that a passage holds elsewhere is shown where it is now, from where its sign stands; others are not', () => {
  const rest = band({ gainDb: 3 });
  const held = { ...rest, frequencyHz: 10000, gainDb: -6 };
  expect(heldElsewhere([rest], [rest], axis, scale)).toEqual([]);
  expect(heldElsewhere([{ ...rest }], [rest], axis, scale)).toEqual([]);
  expect(heldElsewhere([{ ...held, enabled: false }], [rest], axis, scale)).toEqual([]);
  expect(heldElsewhere([held], [], axis, scale)).toEqual([]);
  const [{ id, from, to }] = heldElsewhere([held], [rest], axis, scale);
  expect(id).toBe('b');
  expect(to.x - from.x).toBeCloseTo(300, 6);
  expect(to.y).toBeGreaterThan(from.y);
});
