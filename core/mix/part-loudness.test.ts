import { BAND_DEFAULTS, emptyEqualizer, emptySong, MASTER_ID, newBus, newTrack, type Song, type Track } from '../song';
import { SPECTRUM_BANDS } from '../measure';
import { listenedRange, partLufs } from './part-loudness';
import { allRows } from './testing';

const RATE = 48000;
/** Ten seconds of noise of a level in every band; 255 is +12.5 dB. */
const levelsOf = (byte: number) => new Uint8Array(200 * SPECTRUM_BANDS).fill(byte);
const analyses = allRows({ ['a'.repeat(64)]: levelsOf(180), ['b'.repeat(64)]: levelsOf(180) });
const track = (id: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 10 * RATE }, { id, name: id, ink: 0 }),
  ...changes,
});
const song = (tracks: Track[], changes: Partial<Song> = {}): Song => ({ ...emptySong('Test'), tracks, ...changes });
const whole = { stripId: MASTER_ID };
const shelf = { ...BAND_DEFAULTS, id: 's', letter: 'A', type: 'low-shelf', frequencyHz: 20000, gainDb: -6 } as const;
const shaped = track('a', { chain: [{ ...emptyEqualizer('e'), bands: [shelf] }] });

test('two tracks that are alike are 3 dB louder than one; a fader, a mute and a solo are heard', () => {
  const alone = partLufs(song([track('a')]), analyses, whole);
  expect(partLufs(song([track('a'), track('b')]), analyses, whole) - alone).toBeCloseTo(3.01, 2);
  expect(partLufs(song([track('a', { gainDb: -4 })]), analyses, whole) - alone).toBeCloseTo(-4, 6);
  expect(partLufs(song([track('a', { muted: true })]), analyses, whole)).toBe(-Infinity);
  expect(partLufs(song([track('a'), track('b', { soloed: true })]), analyses, whole)).toBeCloseTo(alone, 9);
});

test('without a chain, a track or a band it is what it was before', () => {
  const plain = partLufs(song([track('a')]), analyses, whole);
  const tune = song([shaped]);
  expect(partLufs(tune, analyses, whole)).toBeLessThan(plain - 4);
  for (const without of [
    { kind: 'mix' },
    { kind: 'strip', stripId: 'a' },
    { kind: 'band', stripId: 'a', bandId: 's' },
  ] as const)
    expect(partLufs(tune, analyses, { ...whole, without })).toBeCloseTo(plain, 9);
});

test('a part of the mix is what runs through it, though it is muted; a range is what lies in it', () => {
  const bus = { ...newBus({ id: 'x', name: 'x', ink: 0 }), gainDb: -3 };
  const tune = song([track('a', { outputId: 'x', muted: true }), track('b')], { buses: [bus] });
  const alone = partLufs(song([track('a')]), analyses, whole);
  expect(partLufs(tune, analyses, { stripId: 'x' }) - alone).toBeCloseTo(-3, 6);
  expect(partLufs(tune, analyses, { stripId: 'b' })).toBeCloseTo(alone, 9);
  const range = { stripId: 'b', lowHz: 500, highHz: 1000 };
  expect(partLufs(tune, analyses, range)).toBeLessThan(alone - 5);
});

test('what a track sends is heard: twice the same is 6 dB more, a muted return adds nothing, its chain shapes what is sent', () => {
  const sends: Track['sends'] = [{ busId: 'x', gainDb: 0, tap: 'after-fader', enabled: true }];
  const bus = newBus({ id: 'x', name: 'x', ink: 0 });
  const of = (changes: Partial<Track>, returned = bus) =>
    partLufs(song([track('a', { sends, ...changes })], { buses: [returned] }), analyses, whole);
  const dry = partLufs(song([track('a')]), analyses, whole);
  expect(of({}) - dry).toBeCloseTo(6.02, 1);
  expect(of({}, { ...bus, polarityInverted: true })).toBe(-Infinity);
  expect(of({}, { ...bus, muted: true }) - dry).toBeCloseTo(0, 9);
  expect(of({ muted: true })).toBe(-Infinity);
  expect(of({ gainDb: -10 }) - dry).toBeCloseTo(6.02 - 10, 1);
  const before: Track['sends'] = [{ busId: 'x', gainDb: -6.0206, tap: 'before-fader', enabled: true }];
  expect(of({ gainDb: -100, sends: before }) - dry).toBeCloseTo(-6, 1);
  expect(of({}, { ...bus, soloed: true }) - dry).toBeCloseTo(0, 1);
  expect(of({}, { ...bus, chain: shaped.chain }) - dry).toBeCloseTo(20 * Math.log10(1.5), 0);
  const tune = song([track('a', { sends })], { buses: [{ ...bus, muted: true, gainDb: -3 }] });
  expect(partLufs(tune, analyses, { stripId: 'x' }) - dry).toBeCloseTo(-3, 6);
});

test('it is the loop that counts, where there is one', () => {
  const loop = { startSeconds: 2, endSeconds: 4.01, enabled: true };
  expect(listenedRange(song([track('a')], { loop }))).toEqual({ from: 40, to: 81 });
  expect(listenedRange(song([track('a')], { loop: { ...loop, enabled: false } }))).toEqual({ from: 0, to: 200 });
  const halfSilent = allRows({ ['a'.repeat(64)]: levelsOf(180).fill(0, 0, 100 * SPECTRUM_BANDS) });
  expect(partLufs(song([track('a')], { loop }), halfSilent, whole)).toBe(-Infinity);
});

test('a change of one track is heard, though what is known of the others is kept', () => {
  const first = song([shaped, track('b')]);
  const before = partLufs(first, analyses, whole);
  const louder = { ...first, tracks: [{ ...shaped, gainDb: 6 }, first.tracks[1]] };
  expect(partLufs(louder, analyses, whole)).toBeGreaterThan(before + 1);
  expect(partLufs({ ...louder, master: { ...louder.master, gainDb: -2 } }, analyses, whole)).toBeCloseTo(
    partLufs(louder, analyses, whole) - 2,
    6,
  );
});
