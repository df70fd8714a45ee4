import { newPassage } from '@/core/passages';
import { applyEdit, emptySong, firstEqualizer, newTrack, type Song, type Track } from '@/core/song';
import { deskWith } from '../../window/testing/open-desk';
import { useStripMeasures } from '../../window/sound/strip-measures';
import { cleanEnds, endFilter, openSources, safeHz, setEnd } from './edge-edits';

const track: Track = newTrack(
  { audioId: 'a'.repeat(64), channels: 1, lengthFrames: 10 },
  { id: 'a', name: 'a', ink: 0 },
);
const song: Song = { ...emptySong('Test'), tracks: [track] };

test('a corner is rounded to two figures, to the side that takes less', () => {
  expect(safeHz(128.7, 'high-pass')).toBeCloseTo(120, 9);
  expect(safeHz(128.7, 'low-pass')).toBeCloseTo(130, 9);
  expect(safeHz(66.1, 'high-pass')).toBeCloseTo(66, 9);
  expect(safeHz(7321, 'low-pass')).toBeCloseTo(7400, 9);
});

test('an end that is there is moved and keeps its slope; else a new one of 18 dB per octave is set, with its reason', () => {
  const made = applyEdit(song, setEnd(song, track, 'high-pass', 120, 'thin below')!);
  const [band] = firstEqualizer(made.tracks[0])!.bands;
  expect(band).toMatchObject({ type: 'high-pass', frequencyHz: 120, order: 3, note: 'thin below' });
  const moved = applyEdit(made, setEnd(made, made.tracks[0], 'high-pass', 90, '')!);
  expect(firstEqualizer(moved.tracks[0])!.bands).toEqual([{ ...band, frequencyHz: 90 }]);
  expect(endFilter(made.tracks[0], 'high-pass')).toMatchObject({ frequencyHz: 120, order: 3 });
  expect(endFilter(track, 'low-pass')).toMatchObject({ type: 'low-pass', order: 3 });
});

test('both ends of a track that are cleaned at once are two bands with letters of their own, in one edit', () => {
  const desk = deskWith(song);
  const end = { trackId: 'a', name: 'a', fromHz: null, why: 'unmissed' };
  const edit = cleanEnds(desk, [
    { ...end, type: 'high-pass', toHz: 90 },
    { ...end, type: 'low-pass', toHz: 9000 },
    { ...end, trackId: 'gone', type: 'low-pass', toHz: 9000 },
  ])!;
  const bands = firstEqualizer(applyEdit(song, edit).tracks[0])!.bands;
  expect(bands.map(({ type, letter, frequencyHz }) => [type, letter, frequencyHz])).toEqual([
    ['high-pass', 'A', 90],
    ['low-pass', 'B', 9000],
  ]);
  expect(cleanEnds(desk, [])).toBeNull();
});

test('what an end is taken from counts the passages that change its track', () => {
  const level = { figure: { stripId: 'a', of: 'strip' as const, partId: '', field: 'gainDb' }, value: -12, points: [] };
  const passing: Song = { ...song, passages: [{ ...newPassage('p', 'Quiet', 2, 4), changes: [level] }] };
  const [source] = openSources(deskWith(passing), passing, track, { from: 0, to: 200 });
  expect(source.id).toBe('a');
  expect(source.spans!.map(({ from, to }) => [from, to])).toEqual([[40, 80]]);
  expect(10 * Math.log10(source.spans![0].gains[60] / source.gains[60])).toBeCloseTo(-12, 6);
});

test('levels that were measured over the loop are not taken for those of the whole song', () => {
  const looped: Song = {
    ...song,
    tracks: [{ ...track, lengthFrames: 480000 }],
    loop: { startSeconds: 2, endSeconds: 4, enabled: true },
  };
  const desk = deskWith(looped);
  const measure = { of: [], beyondDb: new Float64Array(120), addedDb: null, levelsId: 'a measured 1', isCurrent: true };
  useStripMeasures.api(desk).setState({ measures: new Map([['a', measure]]) });
  const audioIdOver = (from: number, to: number) =>
    openSources(desk, looped, looped.tracks[0], { from, to })[0].audioId;
  expect(audioIdOver(40, 80)).toBe('a measured 1');
  expect(audioIdOver(0, 200)).toBe(track.audioId);
});
