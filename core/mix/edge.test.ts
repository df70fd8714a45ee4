import { BAND_DEFAULTS } from '../song';
import { BandLevelsAnalyser, kWeightingSections, SPECTRUM_BANDS, wholeRows } from '../measure';
import { magnitudesDb } from '../filters';
import { edgeCorner, edgeCurve, edgeSpot, edgeExcitation, isLowPart, type EdgeFilter, type EdgeTrack } from './edge';
import { blockPowers, blocksOf, fieldOf } from './fields';
import { levelsWith } from './testing';

const RATE = 48000;
const HIGH_PASS: EdgeFilter = { ...BAND_DEFAULTS, type: 'high-pass', frequencyHz: 100, order: 3 };
const FLAT = new Float64Array(SPECTRUM_BANDS).fill(1);

function trackOf(levels: Uint8Array, rest?: Uint8Array): EdgeTrack {
  const blocks = blocksOf({ from: 0, to: levels.length / SPECTRUM_BANDS });
  const field = fieldOf(blockPowers(wholeRows(levels), 1, blocks), FLAT);
  const other = rest
    ? fieldOf(blockPowers(wholeRows(rest), 1, blocks), FLAT).excitation
    : new Float32Array(field.powers.length);
  return { field, blocks, rest: Float64Array.from(other) };
}
const cornerOf = (track: EdgeTrack, thresholdLu: number) =>
  edgeCorner(edgeExcitation(track).alone, HIGH_PASS, RATE, thresholdLu);

// A Butterworth high-pass of order 3 takes |H|² = 1/(1 + (corner/f)^6) of a tone.
test.each([0.2, 1, 3])('a tone of 110 Hz loses %f LU at the corner that the filter’s formula says', (lossLu) => {
  const analyser = new BandLevelsAnalyser(RATE, 1);
  analyser.push([Float64Array.from({ length: 8 * RATE }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 110 * n) / RATE))]);
  const expected = 110 * (10 ** (lossLu / 10) - 1) ** (1 / 6);
  expect(Math.abs(cornerOf(trackOf(analyser.finish()), lossLu)! / expected - 1)).toBeLessThan(0.03);
});

// Pink noise has the same power in every octave: what is lost is the integral over log f of the K-weighting (ITU-R BS.1770-4) times 1 − |H|².
test.each([0.2, 1])('pink noise loses %f LU at the corner that the K-weighting says', (lossLu) => {
  const pink = levelsWith(5, [{ lowHz: 20, highHz: 19900, db: -50 }]);
  const frequencies = Array.from({ length: 4000 }, (_, i) => 19.953 * 1000 ** ((i + 0.5) / 4000));
  const weights = magnitudesDb(kWeightingSections(RATE), frequencies, RATE).map((db) => 10 ** (db / 10));
  const lossAt = (corner: number) => {
    let [all, left] = [0, 0];
    frequencies.forEach((hz, i) => {
      all += weights[i];
      left += weights[i] / (1 + (corner / hz) ** 6);
    });
    return -10 * Math.log10(left / all);
  };
  let [low, high] = [20, 2000];
  for (let i = 0; i < 40; i++) {
    const middle = Math.sqrt(low * high);
    if (lossAt(middle) < lossLu) low = middle;
    else high = middle;
  }
  expect(Math.abs(cornerOf(trackOf(pink), lossLu)! / low - 1)).toBeLessThan(0.03);
});

test('in the mix the corner lies higher where other tracks cover the lows, and nowhere else', () => {
  const own = levelsWith(5, [{ lowHz: 60, highHz: 4000, db: -45 }]);
  const low = levelsWith(5, [{ lowHz: 30, highHz: 300, db: -30 }]);
  const high = levelsWith(5, [{ lowHz: 3000, highHz: 9000, db: -30 }]);
  const inMix = (rest: Uint8Array) => edgeCorner(edgeExcitation(trackOf(own, rest)).inMix, HIGH_PASS, RATE, 0.2)!;
  const alone = cornerOf(trackOf(own), 0.2)!;
  expect(inMix(low)).toBeGreaterThan(1.8 * alone);
  expect(Math.abs(inMix(high) / alone - 1)).toBeLessThan(0.15);
});

test('the curve rises with the corner, falls with it for a low-pass, and crosses the threshold at the corner', () => {
  const track = trackOf(levelsWith(5, [{ lowHz: 50, highHz: 8000, db: -45 }]));
  const excitation = edgeExcitation(track);
  const curve = edgeCurve(excitation, HIGH_PASS, RATE);
  curve.slice(1).forEach((point, i) => expect(point.aloneLu).toBeGreaterThanOrEqual(curve[i].aloneLu - 1e-9));
  const lowPass: EdgeFilter = { ...HIGH_PASS, type: 'low-pass' };
  const falling = edgeCurve(excitation, lowPass, RATE);
  falling.slice(1).forEach((point, i) => expect(point.aloneLu).toBeLessThanOrEqual(falling[i].aloneLu + 1e-9));
  const corner = edgeCorner(excitation.alone, lowPass, RATE, 0.5)!;
  const at = (hz: number) =>
    falling.reduce((best, point) =>
      Math.abs(point.frequencyHz - hz) < Math.abs(best.frequencyHz - hz) ? point : best,
    );
  expect(at(corner).aloneLu).toBeCloseTo(0.5, 0);
});

test('the spot that limits a corner is where the track plays low', () => {
  const track = trackOf(
    levelsWith(20, [
      { lowHz: 400, highHz: 3000, db: -40 },
      { lowHz: 80, highHz: 200, db: -38, from: 12, to: 14 },
    ]),
  );
  const spot = edgeSpot(track, { ...HIGH_PASS, frequencyHz: 150 }, RATE)!;
  expect(spot.seconds).toBeGreaterThanOrEqual(11.5);
  expect(spot.seconds).toBeLessThan(14);
});

test('silence has no edge and no spot', () => {
  const silent = trackOf(new Uint8Array(100 * SPECTRUM_BANDS));
  expect(cornerOf(silent, 0.2)).toBeNull();
  expect(edgeSpot(silent, HIGH_PASS, RATE)).toBeNull();
  expect(
    edgeCurve(edgeExcitation(silent), HIGH_PASS, RATE).every(({ aloneLu, inMixLu }) => aloneLu === 0 && inMixLu === 0),
  ).toBe(true);
});

// Common practice: kick and bass keep their low end.
test('parts whose low end is theirs', () => {
  for (const part of ['kick', 'Bass guitar', 'double bass', 'foot stomp', 'Sub'])
    expect(isLowPart({ part, name: '' })).toBe(true);
  for (const part of ['voice', 'cello', 'snare']) expect(isLowPart({ part, name: 'Bass' })).toBe(false);
  expect(isLowPart({ part: '', name: 'Kick in' })).toBe(true);
});
