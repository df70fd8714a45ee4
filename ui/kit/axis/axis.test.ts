import { SPECTRUM_BANDS } from '@/core/measure';
import { ridgeArea, ridgeHeight, ridgeLine, ridgeTopDb, RIDGE_RANGE_DB, type PathSink } from './levels';
import { AXIS_TICKS, frequencyScale, REGIONS } from './scale';

/** Notes where a shape goes, as a canvas would be told. */
function recorder() {
  const points: [number, number][] = [];
  const calls: string[] = [];
  const sink: PathSink = {
    moveTo: (x, y) => void (calls.push('move'), points.push([x, y])),
    lineTo: (x, y) => void (calls.push('line'), points.push([x, y])),
    bezierCurveTo: (_a, _b, _c, _d, x, y) => void (calls.push('curve'), points.push([x, y])),
    closePath: () => void calls.push('close'),
  };
  return { sink, points, calls };
}

test('the axis: 20 Hz at the left, 20 kHz at the right, every octave as wide as another', () => {
  const axis = frequencyScale(808);
  expect([axis.x(20), axis.x(20000)]).toEqual([0, 808]);
  expect(axis.x(200) - axis.x(100)).toBeCloseTo(axis.x(8000) - axis.x(4000), 9);
  expect(axis.hz(axis.x(285))).toBeCloseTo(285, 9);
  expect(AXIS_TICKS.map(({ hz }) => hz)).toEqual([...AXIS_TICKS.map(({ hz }) => hz)].sort((a, b) => a - b));
  expect(REGIONS[0].fromHz).toBe(20);
});

test('a ridge rises with its level between its foot and its top', () => {
  expect(ridgeHeight(-20, -20)).toBe(1);
  expect(ridgeHeight(-20 - RIDGE_RANGE_DB / 2, -20)).toBe(0.5);
  expect(ridgeHeight(-150, -20)).toBe(0);
  expect(ridgeHeight(3, -20)).toBe(1);
});

test('the top of all ridges is the highest band, rounded up', () => {
  expect(ridgeTopDb([[-40, -28.5], [-90]])).toBe(-27);
  expect(ridgeTopDb([])).toBe(-18);
  expect(ridgeTopDb([new Array(5).fill(-150)])).toBe(-18);
});

test('the line goes through every band where its frequency is on the axis', () => {
  const axis = frequencyScale(1000);
  const { sink, points, calls } = recorder();
  const levels = new Array(SPECTRUM_BANDS).fill(-60);
  levels[60] = -20;
  ridgeLine(sink, levels, { scale: axis, topDb: -20, footY: 100, topY: 0 });
  expect(points).toHaveLength(SPECTRUM_BANDS);
  expect(calls[0]).toBe('move');
  expect(points[60][1]).toBe(0);
  expect(points[60][0]).toBeCloseTo(axis.x(1000 * 10 ** ((0.3 * (60.5 - 68)) / 12)), 6);
  expect(points[0][1]).toBeCloseTo((40 / RIDGE_RANGE_DB) * 100, 6);
});

test('the area is closed along its foot', () => {
  const { sink, points, calls } = recorder();
  ridgeArea(sink, new Array(SPECTRUM_BANDS).fill(-30), { scale: frequencyScale(500), topDb: -20, footY: 50, topY: 0 });
  expect(calls[calls.length - 1]).toBe('close');
  expect(Math.max(...points.map(([, y]) => y))).toBe(50);
});
