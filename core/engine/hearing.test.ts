import { BAND_DEFAULTS, emptyEqualizer, emptySong, MASTER_ID, newBus, newTrack, type Song, type Track } from '../song';
import { Engine } from './engine';
import { compileHearing, PLAIN_HEARING, type Hearing } from './hearing';
import type { SampleSource } from './source';

const RATE = 48000;
/** One second: every whole number of hertz is a bin of it. */
const LENGTH = 48000;
const TONES_HZ = [60, 200, 500, 1000, 1250, 4000, 12000];

const second = Float64Array.from({ length: RATE }, (_, n) =>
  TONES_HZ.reduce((sum, hz) => sum + 0.05 * Math.sin((2 * Math.PI * hz * n) / RATE), 0),
);
const comb: SampleSource = {
  channels: 1,
  read: (frame, count, left) => {
    for (let n = 0; n < count; n++) left[n] = second[(frame + n) % RATE];
  },
};

const track = (id: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 10 * LENGTH }, { id, name: id, ink: 0 }),
  ...changes,
});
const cut = { ...BAND_DEFAULTS, id: 'cut', letter: 'A', type: 'bell', frequencyHz: 1000, gainDb: -12, q: 4 } as const;
const equalized = (id: string) => track(id, { chain: [{ ...emptyEqualizer(`${id}-eq`), bands: [cut] }] });
const songOf = (tracks: Track[]): Song => ({ ...emptySong('Test'), tracks });

/** Levels of the tones in the mix once everything rests, dB against one track heard plainly in the middle. */
function tones(song: Song, hearing: Partial<Hearing>): number[] {
  const engine = new Engine(RATE, () => comb);
  engine.setSong(compileHearing(song, { ...PLAIN_HEARING, ...hearing }));
  const samples = new Float64Array(LENGTH);
  for (let frame = 0; frame < 2 * LENGTH; frame += 480) {
    const left = new Float64Array(480);
    engine.process(frame, 480, left, new Float64Array(480));
    if (frame >= LENGTH) samples.set(left, frame - LENGTH);
  }
  return TONES_HZ.map((hz) => {
    let [re, im] = [0, 0];
    for (let n = 0; n < LENGTH; n++) {
      const phase = (2 * Math.PI * hz * n) / RATE;
      re += samples[n] * Math.cos(phase);
      im += samples[n] * Math.sin(phase);
    }
    return 20 * Math.log10((2 * Math.hypot(re, im)) / LENGTH / (0.05 * Math.SQRT1_2) + 1e-9);
  });
}
const at = (levels: number[], hz: number) => levels[TONES_HZ.indexOf(hz)];

test('a probe lifts its place by its gain, and leaves what is far from it', () => {
  const probe = { stripId: 'a', frequencyHz: 1000, gainDb: 6, q: 8, channel: 'stereo' } as const;
  const levels = tones(songOf([track('a')]), { probe });
  expect(at(levels, 1000)).toBeCloseTo(6, 1);
  expect(at(levels, 200)).toBeCloseTo(0, 1);
  expect(at(levels, 4000)).toBeCloseTo(0, 1);
});

test('an earshot of a track is that range of that track alone, though it is muted; everything else is 60 dB down', () => {
  const earshot = { stripId: 'a', lowHz: 400, highHz: 2000 };
  const levels = tones(songOf([track('a', { muted: true }), track('b', { gainDb: 12, soloed: true })]), { earshot });
  for (const hz of [500, 1000, 1250]) expect(Math.abs(at(levels, hz))).toBeLessThan(0.45);
  for (const hz of [60, 200, 4000, 12000]) expect(at(levels, hz)).toBeLessThan(-59);
});

test('an earshot of the mix holds every track', () => {
  const levels = tones(songOf([track('a'), track('b')]), { earshot: { stripId: MASTER_ID, lowHz: 400, highHz: 2000 } });
  expect(at(levels, 1000)).toBeGreaterThan(5.4);
  expect(at(levels, 4000)).toBeLessThan(-50);
});

test('an earshot goes through the bus of its track', () => {
  const bus = { ...newBus({ id: 'x', name: 'x', ink: 0 }), muted: true, gainDb: -6 };
  const song = { ...songOf([track('a', { outputId: 'x' })]), buses: [bus] };
  expect(at(tones(song, { earshot: { stripId: 'a', lowHz: 400, highHz: 2000 } }), 1000)).toBeCloseTo(-6, 0);
});

test('before: the mix, a track or a band is heard without what shapes it, the rest as it is', () => {
  const song = songOf([equalized('a')]);
  expect(at(tones(song, {}), 1000)).toBeCloseTo(-12, 1);
  for (const without of [
    { kind: 'mix' },
    { kind: 'strip', stripId: 'a' },
    { kind: 'band', stripId: 'a', bandId: 'cut' },
  ] as const)
    expect(at(tones(song, { without }), 1000)).toBeCloseTo(0, 2);
  expect(at(tones(song, { without: { kind: 'strip', stripId: 'b' } }), 1000)).toBeCloseTo(-12, 1);
  expect(at(tones(song, { without: { kind: 'band', stripId: 'a', bandId: 'gone' } }), 1000)).toBeCloseTo(-12, 1);
});

test('trims act on the strip they name; probe and earshot are heard before as after', () => {
  const song = songOf([equalized('a')]);
  const levels = tones(song, {
    without: { kind: 'mix' },
    probe: { stripId: 'a', frequencyHz: 1000, gainDb: 6, q: 8, channel: 'stereo' },
    earshot: { stripId: 'a', lowHz: 400, highHz: 2000 },
    trimsDb: { a: -3, [MASTER_ID]: -2 },
  });
  expect(Math.abs(at(levels, 1000) - 1)).toBeLessThan(0.45);
  expect(at(levels, 60)).toBeLessThan(-59);
});

test('a strip that nothing is done to stays the same object', () => {
  const song = songOf([equalized('a'), track('b')]);
  const plain = compileHearing(song, PLAIN_HEARING);
  const probe = { stripId: 'a', frequencyHz: 1000, gainDb: 6, q: 8, channel: 'stereo' } as const;
  const [a, b] = compileHearing(song, { ...PLAIN_HEARING, probe }).tracks;
  expect(b).toBe(plain.tracks[1]);
  expect(a).not.toBe(plain.tracks[0]);
});

test('plain hearing is the song itself', () => {
  const song = songOf([equalized('a')]);
  expect(compileHearing(song, PLAIN_HEARING)).toBe(compileHearing(song, { ...PLAIN_HEARING }));
});

test('elsewhere: small speakers lose the lows, a quiet room some of them, and one ear hears one side', () => {
  const song = songOf([track('a')]);
  const small = tones(song, { elsewhere: 'small-speakers' });
  expect(at(small, 60)).toBeLessThan(-35);
  expect(Math.abs(at(small, 1000))).toBeLessThan(3);
  const quiet = tones(song, { elsewhere: 'very-quiet' });
  expect(at(quiet, 60) - at(quiet, 1000)).toBeLessThan(-13);
  // The track is on the right alone; the left side is what the one ear hears.
  const right = tones(songOf([track('a', { pan: 1 })]), { elsewhere: 'one-ear' });
  expect(Math.max(...right)).toBeLessThan(-150);
  const left = tones(songOf([track('a', { pan: -1 })]), { elsewhere: 'one-ear' });
  expect(at(left, 1000)).toBeCloseTo(3.01, 1);
});

test('one ear: the other side is silent', () => {
  const engine = new Engine(RATE, () => comb);
  engine.setSong(compileHearing(songOf([track('a')]), { ...PLAIN_HEARING, elsewhere: 'one-ear' }));
  const [left, right] = [new Float64Array(480), new Float64Array(480)];
  for (let frame = 0; frame < LENGTH; frame += 480) engine.process(frame, 480, left, right);
  expect(Math.max(...left.map(Math.abs))).toBeGreaterThan(0.05);
  expect(Math.max(...right.map(Math.abs))).toBe(0);
});
