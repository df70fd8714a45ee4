import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { PcmEncoder, wavHeader } from '@/core/formats';
import {
  emptyEqualizer,
  emptySong,
  MASTER_ID,
  newBandSettings,
  newBus,
  newId,
  newTrack,
  type Edit,
  type Song,
} from '@/core/song';
import { receiveUpload, startImport } from '../import/import-track';
import { findJob } from '../jobs/jobs';
import { createEmptySong, loadSong, submitEdits } from '../songs/store';
import { ownDataFolder } from '../testing/data-folder';
import { runInWorker } from '../workers/pool';
import { measurePart } from './measure-part';
import { measureSongPart, measureSongStrips } from './measure-song';
import { measureStrips, type MeasureStripsTask } from './measure-strips';
import { freshPages } from '../audio/page-file';

jest.mock('../workers/pool', () => {
  const actual = jest.requireActual<typeof import('../workers/pool')>('../workers/pool');
  return { ...actual, runInWorker: jest.fn(actual.runInWorker) };
});

const folder = ownDataFolder();
const RATE = 48000;
const FRAMES = 6 * RATE;
const audioId = 'cd'.repeat(32);
const pages = path.join(folder, 'measured-pages');

/** A sine of 1 kHz at −20 dBFS over one of 25 Hz that is twice as high. */
beforeAll(() => {
  const samples = Float32Array.from(
    { length: FRAMES },
    (_, n) => 0.1 * Math.sin((2 * Math.PI * 1000 * n) / RATE) + 0.2 * Math.sin((2 * Math.PI * 25 * n) / RATE),
  );
  writeFileSync(pages, Buffer.from(samples.buffer));
});

const highPass = { ...newBandSettings('high-pass', 200), order: 6, id: 'p', letter: 'A' };
function song(withEnd: boolean): Song {
  const recording = { audioId, channels: 1 as const, lengthFrames: FRAMES };
  const chain = [{ ...emptyEqualizer('e'), bands: withEnd ? [highPass] : [] }];
  return {
    ...emptySong('Measured', RATE),
    tracks: [
      { ...newTrack(recording, { id: 'a', name: 'a', ink: 0 }), chain, outputId: 'x' },
      { ...newTrack(recording, { id: 'b', name: 'b', ink: 1 }), muted: true },
    ],
    buses: [{ ...newBus({ id: 'x', name: 'x', ink: 0 }), gainDb: -6 }],
  };
}
const measure = (of: Song, stripId: string) =>
  measurePart(
    {
      song: of,
      stripId,
      pageFiles: { [audioId]: freshPages(pages, 'tone', 48000) },
      range: { startFrame: 0, endFrame: FRAMES },
      byRange: false,
    },
    () => undefined,
  );

// A mono sine of −20 dBFS shared out in the middle has −23.01 dB on each side: −23.0 LUFS in all (BS.1770-4, 1 kHz).
test('the mix, a track and a bus are measured as the engine renders them', async () => {
  const mix = await measure(song(true), MASTER_ID);
  const track = await measure(song(true), 'a');
  const bus = await measure(song(true), 'x');
  expect(track.integratedLufs!).toBeCloseTo(-23, 0);
  expect(bus.integratedLufs! - track.integratedLufs!).toBeCloseTo(-6, 1);
  expect(mix.integratedLufs!).toBeCloseTo(bus.integratedLufs!, 6);
  expect(track.correlation).toBeCloseTo(1, 6);
  // A muted track is silent in the mix, and is measured by itself all the same.
  expect((await measure(song(true), 'b')).integratedLufs).not.toBeNull();
});

test('headroom freed is how much lower the pass filters make the true peak', async () => {
  const open = await measure(song(false), MASTER_ID);
  const shaped = await measure(song(true), MASTER_ID);
  expect(open.headroomFreedDb).toBe(0);
  // 0.3 at most without, 0.1 with: 9.54 dB, but for what the filter’s start and ripples add.
  expect(shaped.headroomFreedDb).toBeCloseTo(open.truePeakDbtp - shaped.truePeakDbtp, 9);
  expect(Math.abs(shaped.headroomFreedDb - 9.54)).toBeLessThan(1.5);
});

// In this thread and in two others, which have their own part of the tracks.
test.each([0, 2])('what is measured in one render is what each part is by itself (threads: %d)', async (threads) => {
  const [one, other] = [song(true), song(false)];
  const second = { ...other.tracks[0], id: 'c', name: 'c', gainDb: -3, pan: 0.5 };
  const both = { ...one, tracks: [...one.tracks, second], master: { ...one.master, gainDb: -2 } };
  const stripIds = ['a', 'c', 'x', MASTER_ID];
  const range = { startFrame: 0, endFrame: FRAMES };
  const shares: number[] = [];
  const figures = await measureStrips(
    { song: both, stripIds, pageFiles: { [audioId]: freshPages(pages, 'tone', RATE) }, range },
    (_, share) => shares.push(share),
    threads,
  );
  expect(Object.keys(figures)).toEqual(stripIds);
  for (const id of stripIds) {
    const wanted = await measure(both, id);
    for (const [name, figure] of Object.entries(wanted))
      expect([id, name, figures[id][name as keyof typeof wanted]]).toEqual([
        id,
        name,
        typeof figure === 'number' ? expect.closeTo(figure, 9) : figure,
      ]);
  }
  expect(figures.a.headroomFreedDb).toBeGreaterThan(5);
  expect(shares.at(-1)).toBe(1);
  expect(shares).toEqual([...shares].sort((first, second) => first - second));
});

test('what cannot be measured is refused', async () => {
  const { id } = await createEmptySong('Nothing', RATE);
  const { signal } = new AbortController();
  await expect(measureSongPart(id, 'gone', {}, signal)).rejects.toMatchObject({ code: 'not-found' });
  await expect(measureSongPart(id, MASTER_ID, {}, signal)).rejects.toMatchObject({ code: 'invalid-input' });
  await expect(measureSongPart('nowhere', MASTER_ID, {}, signal)).rejects.toMatchObject({ code: 'not-found' });
  const together = (stripIds: string[]) => measureSongStrips(id, stripIds, signal, () => undefined);
  await expect(together(['gone'])).rejects.toMatchObject({ code: 'not-found' });
  await expect(together([MASTER_ID])).rejects.toMatchObject({ code: 'invalid-input' });
});

test('what was measured of a part is kept until it sounds otherwise; its name does not matter', async () => {
  const frames = 2 * RATE;
  const samples = Float64Array.from({ length: frames }, (_, n) => 0.25 * Math.sin((2 * Math.PI * 440 * n) / RATE));
  const format = { channels: 1, rateHz: RATE, format: '24' as const };
  const file = Buffer.concat([wavHeader({ ...format, frames }), new PcmEncoder(1, '24').encode([samples], frames)]);
  const upload = await receiveUpload(new Response(file).body, 'kept.wav');
  const { id } = await createEmptySong('Kept', RATE);
  const job = await startImport(id, upload, 'kept.wav');
  while ((await findJob(job.id)).state === 'running') await new Promise((done) => setTimeout(done, 20));
  const { signal } = new AbortController();
  const { mock } = jest.mocked(runInWorker);
  const { song } = await loadSong(id);
  const [{ id: trackId }] = song.tracks;
  const change = (edit: Edit) => submitEdits(id, 'test', [{ id: newId(), edit }]);
  const measured = async () => {
    const before = mock.calls.length;
    const figures = await measureSongPart(id, trackId, {}, signal);
    return { figures, isNew: mock.calls.length > before };
  };
  const first = await measured();
  expect(first.isNew).toBe(true);
  await change({ kind: 'song.set', changes: { title: 'Kept, renamed' } });
  const again = await measured();
  expect(again).toEqual({ figures: { ...first.figures, revision: first.figures.revision + 1 }, isNew: false });
  await change({ kind: 'strip.set', stripId: trackId, changes: { gainDb: -6 } });
  const softer = await measured();
  expect(softer.isNew).toBe(true);
  expect(softer.figures.truePeakDbtp).toBeCloseTo(first.figures.truePeakDbtp - 6, 6);
  // All at once: what is known is not measured again, and what was measured so is known.
  await change({ kind: 'strip.set', stripId: MASTER_ID, changes: { gainDb: -1 } });
  const before = mock.calls.length;
  const { signal: whole } = new AbortController();
  const together = () => measureSongStrips(id, [trackId, MASTER_ID], whole, () => undefined);
  const strips = await together();
  const asked = mock.calls.slice(before).map(([name, task]) => [name, (task as MeasureStripsTask).stripIds]);
  expect(asked).toEqual([['measureStrips', [MASTER_ID]]]);
  expect(strips[trackId]).toEqual({ ...softer.figures, revision: softer.figures.revision + 1 });
  expect(await measureSongPart(id, MASTER_ID, {}, signal)).toEqual(strips[MASTER_ID]);
  expect(await together()).toEqual(strips);
  expect(mock.calls.length).toBe(before + 1);
  await change({ kind: 'strip.set', stripId: trackId, changes: { muted: true } });
  expect(Object.keys(await together())).toEqual([trackId, MASTER_ID]);
  await change({ kind: 'strip.set', stripId: trackId, changes: { gainDb: -7 } });
  expect(Object.keys(await together())).toEqual([MASTER_ID]);
});
