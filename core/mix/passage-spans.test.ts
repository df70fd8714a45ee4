import { newPassage } from '../passages';
import { emptySong, MASTER_ID, newTrack, type Passage, type Song, type Track } from '../song';
import { SPECTRUM_BANDS, STEPS_PER_SECOND } from '../measure';
import { MixMeasure } from './mix-measure';
import { partLufs } from './part-loudness';
import { blockPowers, blocksOf } from './fields';
import { mixTracksOver, passingPowers, stillSpans } from './passage-spans';
import { allRows, audioIdOf, levelsWith } from './testing';

const RATE = 48000;
const SECONDS = 20;
const WHOLE = { from: 0, to: SECONDS * STEPS_PER_SECOND };
const levels = allRows({
  [audioIdOf('v')]: levelsWith(SECONDS, [{ lowHz: 250, highHz: 3000, db: -40 }]),
  [audioIdOf('c')]: levelsWith(SECONDS, [{ lowHz: 250, highHz: 3000, db: -40 }]),
});
const track = (letter: string): Track => ({
  ...newTrack(
    { audioId: audioIdOf(letter), channels: 1, lengthFrames: SECONDS * RATE },
    { id: letter, name: letter, ink: 0 },
  ),
});
const level = (stripId: string, from: number, to: number, value: number, more: Partial<Passage> = {}): Passage => ({
  ...newPassage(`${stripId}${from}`, 'x', from, to),
  changes: [{ figure: { stripId, of: 'strip', partId: '', field: 'gainDb' }, value, points: [] }],
  ...more,
});
const song = (passages: Passage[]): Song => ({ ...emptySong('Test'), tracks: [track('v'), track('c')], passages });

test('a song is cut where passages begin and end, and moves are cut finely; without passages it is one stretch', () => {
  const spans = (passages: Passage[]) => stillSpans(song(passages), WHOLE).map(({ from, to }) => [from, to]);
  expect(spans([])).toEqual([[0, 400]]);
  expect(spans([level('v', 5, 10, -6)])).toEqual([
    [0, 100],
    [100, 200],
    [200, 400],
  ]);
  expect(spans([level('v', 5, 10, -6, { enabled: false })])).toEqual([[0, 400]]);
  expect(spans([level('v', 5, 10, -6, { fadeInSeconds: 3 })]).length).toBe(9);
  const many = Array.from({ length: 500 }, (_, i) => level('v', i / 30, i / 30 + 0.02, -6));
  expect(stillSpans(song(many), WHOLE).length).toBeLessThanOrEqual(241);
});

test('a level that differs in half of the song counts in that half: by powers, as worked out by hand', () => {
  const plain = partLufs(song([]), levels, { stripId: 'v' });
  expect(partLufs(song([level('v', 10, 20, 6)]), levels, { stripId: 'v' }) - plain).toBeCloseTo(
    10 * Math.log10((1 + 10 ** 0.6) / 2),
    1,
  );
  expect(partLufs(song([level(MASTER_ID, 0, 20, -3)]), levels, { stripId: MASTER_ID })).toBeCloseTo(
    partLufs(song([]), levels, { stripId: MASTER_ID }) - 3,
    6,
  );
});

test('without a passage is what it was before it', () => {
  const passage = level('v', 0, 20, 6);
  const part = { stripId: MASTER_ID, without: { kind: 'passage', passageId: passage.id } } as const;
  expect(partLufs(song([passage]), levels, part)).toBeCloseTo(partLufs(song([]), levels, { stripId: MASTER_ID }), 9);
});

test('clearance counts passages where they apply, and nowhere else', () => {
  const clearance = (passages: Passage[], range = WHOLE) => {
    const tracks = mixTracksOver(song(passages), range).map((track) => ({
      ...track,
      claims: [{ lowHz: 500, highHz: 1500 }],
    }));
    return new MixMeasure().update(tracks, levels, range).clearances.v!.clearanceDb;
  };
  const down = [level('c', 10, 20, -12)];
  expect(clearance([])).toBeCloseTo(0, 0);
  expect(clearance(down, { from: 0, to: 200 })).toBeCloseTo(0, 0);
  expect(clearance(down, { from: 200, to: 400 })).toBeCloseTo(12, 0);
  expect(clearance(down)).toBeGreaterThan(clearance([]) + 1);
  // The same track with the same passages is measured once.
  const measure = new MixMeasure();
  const of = (passages: Passage[]) =>
    mixTracksOver(song(passages), WHOLE).map((track) => ({ ...track, claims: [{ lowHz: 500, highHz: 1500 }] }));
  measure.update(of(down), levels, WHOLE);
  expect(measure.update(of([]), levels, WHOLE).clearances.v!.clearanceDb).toBeCloseTo(clearance([]), 9);
});

test('gains of a passage are told only of the tracks that it changes', () => {
  const [voice, cello] = mixTracksOver(song([level('c', 10, 20, -12)]), WHOLE);
  expect(voice.spans).toEqual([]);
  expect(cello.spans).toHaveLength(1);
  expect(cello.spans[0].gains).toHaveLength(SPECTRUM_BANDS);
  const all = mixTracksOver(song([level(MASTER_ID, 10, 20, -12)]), WHOLE);
  expect(all.map(({ spans }) => spans.length)).toEqual([1, 1]);
});

test('powers follow the gains of passages, block by block, and only the tracks that are asked for are told', () => {
  const range = { from: 100, to: 300 };
  const tracks = mixTracksOver(song([level('v', 10, 20, 6), level('c', 10, 20, -12)]), range, { only: new Set(['v']) });
  expect(tracks.map(({ id }) => id)).toEqual(['v']);
  const blocks = blocksOf(range);
  const powers = blockPowers(levels[audioIdOf('v')][0], 1, blocks);
  const heard = passingPowers(powers, tracks[0], blocks);
  const band = 60;
  const gainAt = (block: number) => heard[block * SPECTRUM_BANDS + band] / powers[block * SPECTRUM_BANDS + band];
  expect(10 * Math.log10(gainAt(150) / gainAt(50))).toBeCloseTo(6, 4);
  expect(gainAt(99)).toBeCloseTo(gainAt(0), 9);
  expect(gainAt(100)).toBeCloseTo(gainAt(199), 9);
});
