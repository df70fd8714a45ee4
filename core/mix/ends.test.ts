import { spectrumBandOf, SPECTRUM_BANDS, wholeRows } from '../measure';
import { BAND_DEFAULTS, emptySong, newTrack } from '../song';
import { edgeCorner, edgeExcitation, EDGE_THRESHOLD_LU, type EdgeFilter, type EdgeTrack } from './edge';
import { proposeHighPass, proposeLowPass, type EndsOptions } from './ends';
import { blockPowers, blocksOf, fieldOf } from './fields';
import { songStretches, songStretchName } from './stretches';
import { byteOf, levelsWith } from './testing';

const RATE = 48000;
const HIGH_PASS: EdgeFilter = { ...BAND_DEFAULTS, type: 'high-pass', frequencyHz: 100, order: 3 };
const LOW_PASS: EdgeFilter = { ...HIGH_PASS, type: 'low-pass' };
const FLAT = new Float64Array(SPECTRUM_BANDS).fill(1);
const GUITAR = { part: 'acoustic guitar', name: 'Guitar' };

const fieldOfLevels = (levels: Uint8Array) => {
  const blocks = blocksOf({ from: 0, to: levels.length / SPECTRUM_BANDS });
  return { blocks, field: fieldOf(blockPowers(wholeRows(levels), 1, blocks), FLAT) };
};
function trackOf(levels: Uint8Array, rest: Uint8Array): EdgeTrack {
  const { blocks, field } = fieldOfLevels(levels);
  return { field, blocks, rest: Float64Array.from(fieldOfLevels(rest).field.excitation) };
}
const halves: EndsOptions = {
  rateHz: RATE,
  parts: [
    { from: 0, to: 200 },
    { from: 200, to: 400 },
  ],
  wanted: [],
  isBold: false,
};

/** A guitar of 80 Hz to 5 kHz; a bass covers its lows in the second half alone. */
const guitar = levelsWith(20, [{ lowHz: 80, highHz: 5000, db: -45 }]);
const bass = levelsWith(20, [{ lowHz: 30, highHz: 350, db: -25, from: 10, to: 20 }]);

test('a high-pass takes no more than the threshold of the track alone where it is most exposed; a bold one goes up to an octave further', () => {
  const track = trackOf(guitar, bass);
  const aloneHz = edgeCorner(edgeExcitation(track, { from: 0, to: 200 }).alone, HIGH_PASS, RATE, 0.2)!;
  const end = proposeHighPass(track, GUITAR, HIGH_PASS, halves)!;
  expect(end).toMatchObject({ why: 'unmissed', part: 0 });
  expect(end.frequencyHz).toBeLessThan(aloneHz);
  expect(end.frequencyHz).toBeGreaterThan(0.8 * aloneHz);
  // In the first half nothing covers it: being bold does not help there. Where the bass plays all the time it does.
  const covered = trackOf(guitar, levelsWith(20, [{ lowHz: 30, highHz: 350, db: -25 }]));
  const bold = proposeHighPass(covered, GUITAR, HIGH_PASS, { ...halves, isBold: true })!;
  expect(bold.frequencyHz).toBeGreaterThan(1.4 * end.frequencyHz);
  expect(bold.frequencyHz).toBeLessThan(2 * aloneHz);
  expect(proposeHighPass(covered, GUITAR, HIGH_PASS, halves)!.frequencyHz).toBeLessThan(aloneHz);
});

// Common practice: kick and bass are shut off below 30 to 40 Hz.
test('kick and bass keep their lows', () => {
  for (const part of ['kick', 'double bass', 'sub bass']) {
    const end = proposeHighPass(trackOf(bass, guitar), { part, name: part }, HIGH_PASS, halves)!;
    expect(end.frequencyHz).toBeGreaterThanOrEqual(30);
    expect(end.frequencyHz).toBeLessThanOrEqual(40);
  }
});

test('a track that has highs which nobody else wants keeps them', () => {
  expect(proposeLowPass(trackOf(guitar, bass), LOW_PASS, halves)).toBeNull();
});

test('an upper end is shut where another track is to be heard above, no lower than that one needs', () => {
  const soft = levelsWith(20, [
    { lowHz: 80, highHz: 3000, db: -30 },
    { lowHz: 3001, highHz: 15000, db: -70 },
  ]);
  const shaker = levelsWith(20, [{ lowHz: 6000, highHz: 14000, db: -55 }]);
  const end = proposeLowPass(trackOf(soft, shaker), LOW_PASS, { ...halves, wanted: [{ lowHz: 7000, highHz: 14000 }] })!;
  expect(end.why).toBe('wanted-above');
  expect(end.frequencyHz).toBeGreaterThanOrEqual(6900);
  expect(end.frequencyHz).toBeLessThan(9000);
  // One that has nothing there is not in the way.
  const dark = levelsWith(20, [{ lowHz: 80, highHz: 3000, db: -30 }]);
  expect(
    proposeLowPass(trackOf(dark, shaker), LOW_PASS, { ...halves, wanted: [{ lowHz: 7000, highHz: 14000 }] }),
  ).toBeNull();
});

// The highs of a plucked string hold a hundredth of its power, and much of what is heard of it.
test('what makes a track bright stays, though it holds next to no power and another wants that range; what is dark is shut there', () => {
  const falling = (dbAnOctave: number) =>
    levelsWith(
      20,
      Array.from({ length: 7 }, (_, octave) => ({
        lowHz: 100 * 2 ** octave,
        highHz: 199 * 2 ** octave,
        db: -30 - dbAnOctave * octave,
      })),
    );
  const shaker = levelsWith(20, [{ lowHz: 2500, highHz: 12000, db: -95 }]);
  const options = { ...halves, wanted: [{ lowHz: 2500, highHz: 12000 }] };
  const cornerOf = (dbAnOctave: number) =>
    proposeLowPass(trackOf(falling(dbAnOctave), shaker), LOW_PASS, options)?.frequencyHz ?? 20000;
  const excitation = edgeExcitation(trackOf(falling(6), shaker));
  expect(edgeCorner(excitation.alone, LOW_PASS, RATE, EDGE_THRESHOLD_LU)).toBeLessThan(2500);
  expect(cornerOf(6)).toBeGreaterThan(6000);
  expect(cornerOf(12)).toBeLessThan(4500);
  expect(cornerOf(12)).toBeLessThan(cornerOf(9));
  // Boldly, what the rest covers counts for nothing.
  const covering = trackOf(falling(6), levelsWith(20, [{ lowHz: 2500, highHz: 16000, db: -45 }]));
  const [plain, bold] = [false, true].map((isBold) => proposeLowPass(covering, LOW_PASS, { ...options, isBold })!);
  expect(bold.frequencyHz).toBeLessThan(0.8 * plain.frequencyHz);
});

test('an upper end is shut where there is only noise that does not move', () => {
  const hissing = levelsWith(20, []);
  for (let step = 0; step < hissing.length / SPECTRUM_BANDS; step++)
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      const hz = 20 * 2 ** (band / 12);
      const isPlayed = step % 20 < 10 && hz > 80 && hz < 4000;
      hissing[step * SPECTRUM_BANDS + band] = byteOf(isPlayed ? -40 : -85 + (step % 3));
    }
  const end = proposeLowPass(trackOf(hissing, levelsWith(20, [])), LOW_PASS, halves)!;
  expect(end.why).toBe('noise-above');
  expect(end.frequencyHz).toBeGreaterThan(3500);
  expect(end.frequencyHz).toBeLessThan(6000);
  // What moves up there is played.
  const moving = hissing.slice();
  for (let step = 0; step < moving.length / SPECTRUM_BANDS; step += 40)
    for (let i = 0; i < 20; i++) moving[(step + i) * SPECTRUM_BANDS + spectrumBandOf(15000)] = byteOf(-55);
  expect(proposeLowPass(trackOf(moving, levelsWith(20, [])), LOW_PASS, halves)?.frequencyHz ?? 20000).toBeGreaterThan(
    10000,
  );
});

test('a song is looked at part by part; one without parts in stretches', () => {
  const track = newTrack(
    { audioId: 'a'.repeat(64), channels: 1, lengthFrames: 60 * RATE },
    { id: 'a', name: 'a', ink: 0 },
  );
  const song = { ...emptySong('Test'), tracks: [track] };
  expect(songStretches(song)).toEqual([
    { from: 0, to: 400 },
    { from: 400, to: 800 },
    { from: 800, to: 1200 },
  ]);
  expect(songStretchName(song, 1)).toBe('the part from 0:20 on');
  const parted = {
    ...song,
    parts: [
      { name: 'Shore', startSeconds: 5 },
      { name: 'Rowing', startSeconds: 30 },
    ],
  };
  expect(songStretches(parted).map(({ from }) => from)).toEqual([0, 100, 600]);
  expect(songStretchName(parted, 2)).toBe('Rowing');
});
