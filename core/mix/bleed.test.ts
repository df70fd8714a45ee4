import { seededRandom } from '../formats';
import { RATE, track } from '../engine/testing/any-song';
import type { SampleSource } from '../engine';
import { emptySong, newProcessor, Q_RANGE, type Song } from '../song';
import { asRecorded, bandForBleed, bleedInto, type FoundBleed } from './bleed';

const SECONDS = 8;
const LENGTH = SECONDS * RATE;

/** Low strokes at −20 dBFS, twice a second, of another tone each. */
function strokes(): Float64Array {
  const random = seededRandom(4);
  const out = new Float64Array(LENGTH);
  for (let at = 0; at < LENGTH; at += RATE / 2) {
    const hz = 60 + 50 * random();
    for (let n = 0; n < RATE / 4; n++)
      out[at + n] = 0.1 * Math.sin((2 * Math.PI * hz * n) / RATE) * Math.exp(-n / (0.05 * RATE));
  }
  return out;
}
/** What is heard above 1 kHz. */
function hiss(): Float64Array {
  const random = seededRandom(5);
  let before = 0;
  return Float64Array.from({ length: LENGTH }, () => {
    const value = random() - 0.5;
    const out = 0.2 * (value - before);
    before = value;
    return out;
  });
}
const low = strokes();
const high = hiss();
const heard = high.map((value, n) => value + 0.4 * (low[n - 192] ?? 0));
const held = (samples: Float64Array): SampleSource => ({
  channels: 1,
  read: (frame, count, left) => {
    for (let n = 0; n < count; n++) left[n] = samples[frame + n] ?? 0;
  },
});
const sourceOf = ({ id }: { id: string }) => held(id === 'low' ? low : heard);
const long = (id: string) => ({ ...track(id, 1), lengthFrames: LENGTH });
const song: Song = {
  ...emptySong('Bleeding', RATE),
  tracks: [
    { ...long('low'), gainDb: -30, muted: true, delayMs: 20, chain: [newProcessor('reverb', 'room')] },
    { ...long('high'), pan: 1, polarityInverted: true, chain: [newProcessor('gate', 'gate')] },
    long('other'),
  ],
};
const range = { startFrame: 0, endFrame: LENGTH };

test('bleed is looked for in the recordings, whatever is done to their tracks', () => {
  const plain = asRecorded(song, ['low', 'high']);
  expect(plain.tracks.map(({ id, chain, gainDb, muted }) => [id, chain, gainDb, muted])).toEqual([
    ['low', [], 0, false],
    ['high', [], 0, false],
  ]);
  const bleed = bleedInto(plain, 'high', 'low', sourceOf, range)!;
  expect(bleed.delaySeconds).toBeCloseTo(192 / RATE, 3);
  expect(bleed.lowHz).toBeLessThan(70);
  expect(bleed.highHz).toBeGreaterThan(100);
  expect(bleed.share).toBeGreaterThan(0.9);
  // Strokes of −20 dBFS are over it, and what is left of them between is not.
  expect(bleed.thresholdDb).toBeLessThan(-22);
  expect(bleed.thresholdDb).toBeGreaterThan(-70);
  expect(bleedInto(plain, 'low', 'high', sourceOf, range)).toBeNull();
});

describe('what answers it, to begin with', () => {
  const frequenciesHz = [50, 100, 200, 400, 800, 1600];
  const bleed = (changes: Partial<FoundBleed>, othersDb: number[]): FoundBleed => ({
    lowHz: 40,
    highHz: 280,
    share: 0.9,
    delaySeconds: 0.004,
    thresholdDb: -30,
    picture: { frequenciesHz, wholeDb: [0, 0, 0, 0, 0, 0], othersDb },
    ...changes,
  });

  test('a high-pass where hardly anything below is the track’s own', () => {
    const band = bandForBleed(bleed({}, [0, 0, 0, -20, -40, -40]), 's');
    expect(band).toMatchObject({ type: 'high-pass', frequencyHz: 280, givesWay: null });
  });

  test('a low shelf that gives way where the track has something of its own there', () => {
    const band = bandForBleed(bleed({}, [-2, -2, -2, -20, -40, -40]), 's');
    expect(band).toMatchObject({ type: 'low-shelf', frequencyHz: 280, gainDb: 0 });
    expect(band.givesWay).toMatchObject({ thresholdDb: -30, key: { stripId: 's', lowHz: null, highHz: 280 } });
    expect(band.givesWay!.amountDb).toBeLessThan(0);
  });

  test('a bell as wide as the bleed where there is something below it', () => {
    const band = bandForBleed(bleed({ lowHz: 150, highHz: 600 }, [-40, -40, -2, -2, -40, -40]), 's');
    expect(band).toMatchObject({ type: 'bell', frequencyHz: 300, q: 0.67 });
    expect(band.givesWay).toMatchObject({ key: { stripId: 's', lowHz: 150, highHz: 600 } });
    // What covers nearly everything is still a band that there is.
    const wide = bandForBleed(bleed({ lowHz: 56, highHz: 17_783 }, [-2, -2, -2, -2, -2, -2]), 's');
    expect(wide.q).toBeGreaterThanOrEqual(Q_RANGE.min);
  });
});
