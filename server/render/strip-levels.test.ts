import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { SPECTRUM_CENTERS_HZ, spectrumBandOf, STEPS_PER_SECOND, wholeRows } from '@/core/measure';
import { addedDb, beyondDb, chainResponseDb, isEstimated, NOTHING_MEASURED, stripUpTo } from '@/core/mix';
import { compressorCurveDb } from '@/core/processors';
import {
  emptyEqualizer,
  emptySong,
  newBandSettings,
  newBus,
  newProcessor,
  newTrack,
  type Compressor,
  type Song,
} from '@/core/song';
import { freshPages } from '../audio/page-file';
import { measureRecording } from '../audio/measure-recording';
import { ownDataFolder } from '../testing/data-folder';
import { measureStripLevels } from './strip-levels';

const folder = ownDataFolder();
const RATE = 48000;
const SECONDS = 8;
const audioId = 'ef'.repeat(32);
const file = path.join(folder, 'strip-levels-pages');
const TONE = spectrumBandOf(1010);
const TONE_HZ = SPECTRUM_CENTERS_HZ[TONE];
const PERIOD_MS = 1000 / TONE_HZ;

/** A sine in the middle of a band at −20 dBFS. */
beforeAll(() => {
  const samples = Float32Array.from(
    { length: SECONDS * RATE },
    (_, n) => 0.1 * Math.sin((2 * Math.PI * TONE_HZ * n) / RATE),
  );
  writeFileSync(file, Buffer.from(samples.buffer));
});
const compressor = {
  ...newProcessor('compressor', 'c'),
  thresholdDb: -32,
  ratio: 4,
  kneeDb: 0,
  detector: 'rms',
  attackMs: 50,
  releaseMs: 200,
} as Compressor;
const bell = (id: string, gainDb: number) => ({
  ...emptyEqualizer(id),
  bands: [{ ...newBandSettings('bell', TONE_HZ), gainDb, id: `${id}-b`, letter: 'A', givesWay: null }],
});
const recording = { audioId, channels: 1 as const, lengthFrames: SECONDS * RATE };
const song: Song = {
  ...emptySong('Levels', RATE),
  tracks: [
    {
      ...newTrack(recording, { id: 'a', name: 'a', ink: 0 }),
      chain: [bell('before', 4), compressor, bell('behind', -7)],
      outputId: 'x',
    },
    { ...newTrack(recording, { id: 'b', name: 'b', ink: 1 }), gainDb: -20, outputId: 'x' },
  ],
  buses: [newBus({ id: 'x', name: 'x', ink: 0 })],
};
const range = { from: 2 * STEPS_PER_SECOND, to: 6 * STEPS_PER_SECOND };
const measure = (stripId: string, of = song) =>
  measureStripLevels({ song: of, stripId, range, pageFiles: { [audioId]: freshPages(file, 'tone', RATE) } });

// Giannoulis, Massberg and Reiss, JAES 60 (2012): the static curve, which a steady sine settles on.
test('levels behind a compressor are what comes out of it; what is linear behind it follows from its response', () => {
  const { inDb, outDb, rows, stepsPerRow } = measure('a');
  expect(inDb[TONE]).toBeCloseTo(-20, 0);
  const comes = compressorCurveDb(-16, compressor);
  expect(Math.abs(outDb[TONE] - comes)).toBeLessThan(0.5);
  // A row for every step of the stretch, all alike.
  expect(rows.length).toBe(((range.to - range.from) / stepsPerRow) * inDb.length);
  const response = chainResponseDb([bell('before', 4)], 1, RATE);
  const beyond = beyondDb(inDb, outDb, response);
  expect(Math.abs(beyond[TONE] - (comes + 16))).toBeLessThan(0.5);
  // Of what is not there nothing is told.
  expect(beyond[5]).toBe(0);
  expect(isEstimated(song)).toBe(true);
  const measured = { of: song.tracks[0].chain.slice(0, 2), beyondDb: beyond, addedDb: null, levelsId: null };
  expect(isEstimated(song, new Map([['a', { ...measured, isCurrent: true }]]))).toBe(false);
  expect(isEstimated(song, new Map([['a', { ...measured, isCurrent: false }]]))).toBe(true);
});

test('a sum is measured as it adds up: what is the same in two tracks is louder than their powers, what is turned softer', async () => {
  const twins = (changes: Partial<Song['tracks'][number]>): Song => ({
    ...song,
    tracks: [
      { ...song.tracks[1], id: 'a', gainDb: 0 },
      { ...song.tracks[1], gainDb: 0, ...changes },
    ],
  });
  const { bandLevels } = await measureRecording({
    pages: freshPages(file, 'tone', RATE),
    channels: 1,
    rateHz: RATE,
    lengthFrames: SECONDS * RATE,
  });
  const levels = { [audioId]: [wholeRows(bandLevels)] };
  const added = (of: Song) => addedDb(of, 'x', measure('x', of).inDb, levels, range, NOTHING_MEASURED)!;
  expect(added(twins({}))[TONE]).toBeCloseTo(3.01, 0);
  expect(added(twins({ polarityInverted: true }))[TONE]).toBe(-40);
  // A quarter of its period later: neither.
  expect(Math.abs(added(twins({ delayMs: PERIOD_MS / 4 }))[TONE])).toBeLessThan(0.3);
  expect(added(twins({ delayMs: PERIOD_MS / 2, gainDb: -6 }))[TONE]).toBeLessThan(-6);
  expect(addedDb(twins({}), 'x', [], {}, range, NOTHING_MEASURED)).toBeNull();
});

test('a part of a song up to a place in a chain has neither fader nor position', () => {
  const [track] = stripUpTo({ ...song, tracks: [{ ...song.tracks[0], gainDb: -9, pan: 0.5 }] }, 'a', []).tracks;
  expect(track).toMatchObject({ gainDb: 0, pan: 0, chain: [] });
});
