import { designEqualizer, logSpacedHz, magnitudeDb } from '@/core/filters';
import { emptyEqualizer, newBandSettings, type Band, type BandChannel } from '@/core/song';
import { bandCurve, pathCurves, pathsIn, valueScale } from './curves';
import { traceCurve } from './draw-bench';

const RATE = 48000;
const frequenciesHz = logSpacedHz(20, 20000, 200);
const band = (channel: BandChannel, changes: Partial<Band> = {}): Band => ({
  ...newBandSettings('bell', 1000),
  gainDb: 6,
  channel,
  id: channel,
  letter: 'A',
  ...changes,
});
const equalizer = (...bands: Band[]) => ({ ...emptyEqualizer('e'), bands });

test('as many paths as differ: one where everything acts on both sides, one in a mono track', () => {
  expect(pathsIn([band('stereo')], 2)).toEqual(['stereo']);
  expect(pathsIn([band('stereo'), band('side')], 2)).toEqual(['mid', 'side']);
  expect(pathsIn([band('left'), band('mid')], 2)).toEqual(['mid', 'side', 'left', 'right']);
  expect(pathsIn([band('side', { enabled: false })], 2)).toEqual(['stereo']);
  expect(pathsIn([band('side')], 1)).toEqual(['stereo']);
});

test('each path’s curve is the response of the sections that a signal on it passes', () => {
  const bell = equalizer(band('stereo', { id: 'b', frequencyHz: 200 }), band('side'));
  const curves = pathCurves('level', bell, { channels: 2, path: 'stereo', rateHz: RATE }, frequenciesHz);
  expect(curves.map(({ path }) => path)).toEqual(['mid', 'side']);
  for (const { path, values } of curves) {
    const sections = designEqualizer(bell, RATE, path);
    frequenciesHz.forEach((hz, i) => expect(values[i]).toBeCloseTo(magnitudeDb(sections, hz, RATE), 9));
  }
});

test('the path that is worked on is drawn last, even where it is like the others', () => {
  const paths = (path: BandChannel) =>
    pathCurves('level', equalizer(band('side')), { channels: 2, path, rateHz: RATE }, frequenciesHz).map((curve) => [
      curve.path,
      curve.isMain,
    ]);
  expect(paths('mid')).toEqual([
    ['side', false],
    ['mid', true],
  ]);
  expect(paths('left')).toEqual([
    ['mid', false],
    ['side', false],
    ['left', true],
  ]);
});

test('the phase of a high-pass begins above nothing and ends there; a bell delays what it lifts', () => {
  const highPass = band('stereo', { type: 'high-pass', frequencyHz: 200, order: 3 });
  const phase = bandCurve('phase', highPass, frequenciesHz, RATE);
  expect(phase[0]).toBeGreaterThan(240);
  expect(Math.abs(phase[199])).toBeLessThan(5);
  const delay = bandCurve('delay', band('stereo', { q: 4 }), frequenciesHz, RATE);
  const most = delay.indexOf(Math.max(...delay));
  expect(Math.abs(Math.log2(frequenciesHz[most] / 1000))).toBeLessThan(0.1);
});

test('the scale holds the values, with tidy lines and units', () => {
  const phase = valueScale('phase', [[-400, 20]]);
  expect(phase).toMatchObject({ top: 180, bottom: -450 });
  expect(phase.ticks).toContain(-360);
  expect(phase.write(-90)).toBe('−90°');
  const delay = valueScale('delay', [[-0.4, 5.3]]);
  expect(delay.bottom).toBeLessThanOrEqual(-0.4);
  expect(delay.top).toBeGreaterThanOrEqual(5.3);
  expect(delay.write(2)).toBe('2 ms');
  expect(valueScale('delay', [[0, 0.04]]).write(0.1)).toBe('0.1 ms');
  expect(valueScale('wrapped-phase', [[-170, 170]])).toMatchObject({ top: 180, bottom: -180 });
});

test('a jump of half a turn or more is left open', () => {
  const drawn: string[] = [];
  const sink = {
    moveTo: (x: number, y: number) => void drawn.push(`M${x},${y}`),
    lineTo: (x: number, y: number) => void drawn.push(`L${x},${y}`),
  };
  traceCurve(sink, [170, 179, -179, -170], (value) => value, 180);
  expect(drawn).toEqual(['M0,170', 'L1,179', 'M2,-179', 'L3,-170']);
});

test('a curve has points where it bends, and strays nowhere by more than a sixth of a pixel', () => {
  const points: [number, number][] = [];
  const sink = {
    moveTo: (x: number, y: number) => void points.push([x, y]),
    lineTo: (x: number, y: number) => void points.push([x, y]),
  };
  const pixels = logSpacedHz(20, 20000, 760);
  const y = (db: number) => 120 - 5 * db;
  const bends = equalizer(band('stereo', { q: 4 }), band('stereo', { id: 'n', type: 'high-pass', frequencyHz: 90 }));
  const [{ values }] = pathCurves('level', bends, { channels: 1, path: 'stereo', rateHz: RATE }, pixels);
  traceCurve(sink, values, y);
  expect(points.length).toBeLessThan(250);
  expect([points[0][0], points.at(-1)![0]]).toEqual([0, 759]);
  let at = 0;
  for (let x = 0; x < 760; x++) {
    while (points[at + 1][0] < x) at++;
    const [[x1, y1], [x2, y2]] = [points[at], points[at + 1]];
    expect(Math.abs(y1 + ((y2 - y1) * (x - x1)) / (x2 - x1) - y(values[x]))).toBeLessThan(1 / 6);
  }
  points.length = 0;
  traceCurve(sink, new Float64Array(760), y);
  expect(points).toEqual([
    [0, 120],
    [759, 120],
  ]);
});

test('the level of an equalizer is that of its sections, with its output gain, whichever of its bands were there before', () => {
  const kept = band('stereo', { id: 'kept', frequencyHz: 300 });
  for (const frequencyHz of [900, 1800]) {
    const moved = { ...equalizer(kept, band('stereo', { frequencyHz })), outputGainDb: -4 };
    const [{ values }] = pathCurves('level', moved, { channels: 1, path: 'stereo', rateHz: RATE }, frequenciesHz);
    const sections = designEqualizer(moved, RATE);
    frequenciesHz.forEach((hz, i) => expect(values[i]).toBeCloseTo(magnitudeDb(sections, hz, RATE), 9));
  }
});
