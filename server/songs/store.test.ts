import { eq, sql } from 'drizzle-orm';
import { firstEqualizer, emptyEqualizer, newBandSettings, newTrack, type Edit } from '@/core/song';
import { asOrvidError } from '@/core/errors';
import { database } from '../database/client';
import { edits, songs } from '../database/schema';
import { singleton } from '../singleton';
import { ownDataFolder } from '../testing/data-folder';
import { subscribe, type SongEvent } from './events';
import {
  createEmptySong,
  deleteSong,
  duplicateSong,
  editsSince,
  listSongs,
  loadSong,
  restoreSong,
  songExists,
  submitEdits,
} from './store';

ownDataFolder();

const track = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 48000 }, { id: 'a', name: 'a', ink: 0 });
const withBand = {
  ...track,
  chain: [{ ...emptyEqualizer('e'), bands: [{ ...newBandSettings('bell', 500), id: 'p', letter: 'A' }] }],
};
const addTrack: Edit = { kind: 'track.add', track: withBand, index: 0 };
const gain = (gainDb: number): Edit => ({
  kind: 'band.set',
  stripId: 'a',
  equalizerId: 'e',
  bandId: 'p',
  changes: { gainDb },
});
const gainOf = async (songId: string) => firstEqualizer((await loadSong(songId)).song.tracks[0])!.bands[0].gainDb;

/** The server after a crash: nothing is left but the database. */
const forgetSongs = () => singleton('songs', () => new Map()).clear();

test('edits are acknowledged with their revision, journalled and applied', async () => {
  const { id } = await createEmptySong('One', 48000);
  const outcomes = await submitEdits(id, 'w', [
    { id: 'e1', edit: addTrack },
    { id: 'e2', edit: gain(-3) },
  ]);
  expect(outcomes).toEqual([
    { id: 'e1', revision: 1 },
    { id: 'e2', revision: 2 },
  ]);
  expect(await gainOf(id)).toBe(-3);
  expect((await editsSince(id, 1)).map(({ revision, editId }) => [revision, editId])).toEqual([[2, 'e2']]);
});

test('while the disk is full edits are not refused but fail, so that they are sent again: then they are kept', async () => {
  const { id } = await createEmptySong('Full', 48000);
  const db = await database();
  // The most pages that the database may have: SQLite says that it is full, as where the disk is.
  await db.run(sql`PRAGMA max_page_count = 1`);
  const what = 'x'.repeat(80);
  const landmarks = Array.from({ length: 60 }, (_, i) => ({
    ...{ id: `l${i}`, parts: [], lowHz: 100, highHz: 200, what },
    move: 'y'.repeat(120),
  }));
  const sent = (i: number) => [{ id: `e${i}`, edit: { kind: 'song.set', changes: { landmarks } } as Edit }];
  const fill = async () => {
    for (let i = 0; i < 40; i++) await submitEdits(id, 'w', sent(i));
  };
  const thrown: unknown = await fill().catch((error: unknown) => error);
  expect(asOrvidError(thrown).code).toBe('disk-full');
  const { revision } = await loadSong(id);
  await db.run(sql`PRAGMA max_page_count = 1073741823`);
  expect(await submitEdits(id, 'w', sent(revision))).toEqual([{ id: `e${revision}`, revision: revision + 1 }]);
});

test('an edit that comes twice is acknowledged twice and applied once', async () => {
  const { id } = await createEmptySong('Twice', 48000);
  const first = [{ id: 'e1', edit: addTrack }];
  expect(await submitEdits(id, 'w', first)).toEqual(await submitEdits(id, 'w', first));
  expect(await loadSong(id)).toMatchObject({ revision: 1, song: { tracks: [{ id: 'a' }] } });
});

test('an edit that cannot be applied is refused by itself; those beside it are kept', async () => {
  const { id } = await createEmptySong('Refused', 48000);
  const outcomes = await submitEdits(id, 'w', [
    { id: 'e1', edit: addTrack },
    { id: 'e2', edit: { kind: 'track.remove', trackId: 'gone' } },
    { id: 'e3', edit: gain(2) },
  ]);
  expect(outcomes).toEqual([
    { id: 'e1', revision: 1 },
    { id: 'e2', error: expect.objectContaining({ code: 'not-found' }) },
    { id: 'e3', revision: 2 },
  ]);
});

test('after a crash the song is what the journal says, across snapshots', async () => {
  const { id } = await createEmptySong('Crash', 48000);
  await submitEdits(id, 'w', [{ id: 'e0', edit: addTrack }]);
  for (let i = 1; i <= 120; i++) await submitEdits(id, 'w', [{ id: `e${i}`, edit: gain(-i / 10) }]);
  forgetSongs();
  expect(await gainOf(id)).toBe(-12);
  const db = await database();
  const [row] = await db.select().from(songs).where(eq(songs.id, id));
  expect(row).toMatchObject({ revision: 121, documentRevision: 100 });
});

test('edits of two windows at once all find their place, one revision each', async () => {
  const { id } = await createEmptySong('Crowd', 48000);
  await submitEdits(id, 'w', [{ id: 'e0', edit: addTrack }]);
  const sent = Array.from({ length: 40 }, (_, i) =>
    submitEdits(id, `w${i % 2}`, [{ id: `x${i}`, edit: gain(i / 10) }]),
  );
  const revisions = (await Promise.all(sent)).flat().map((outcome) => ('revision' in outcome ? outcome.revision : -1));
  expect([...revisions].sort((a, b) => a - b)).toEqual(Array.from({ length: 40 }, (_, i) => i + 2));
  const journal = await (await database()).select().from(edits).where(eq(edits.songId, id));
  expect(journal).toHaveLength(41);
  const last = journal.reduce((a, b) => (a.revision > b.revision ? a : b));
  expect(await gainOf(id)).toBe(last.edit.kind === 'band.set' ? last.edit.changes.gainDb : NaN);
});

test('the windows of a song hear of its edits, and those of other songs do not', async () => {
  const [first, second] = [await createEmptySong('Heard', 48000), await createEmptySong('Silent', 48000)];
  const heard: SongEvent[] = [];
  const stop = subscribe(first.id, (event) => heard.push(event));
  await submitEdits(second.id, 'w', [{ id: 'o', edit: addTrack }]);
  await submitEdits(first.id, 'w', [{ id: 'e', edit: addTrack }]);
  stop();
  await submitEdits(first.id, 'w', [{ id: 'f', edit: gain(1) }]);
  expect(heard).toEqual([expect.objectContaining({ type: 'edit', editId: 'e', revision: 1, clientId: 'w' })]);
});

test('songs are listed, duplicated, deleted and brought back', async () => {
  const { id } = await createEmptySong('Listed', 48000);
  await submitEdits(id, 'w', [{ id: 'e', edit: addTrack }]);
  expect((await listSongs()).find((song) => song.id === id)).toMatchObject({
    title: 'Listed',
    tracks: 1,
    lengthSeconds: 1,
  });
  const copy = await duplicateSong(id);
  expect(copy).toMatchObject({ revision: 0, song: { title: 'Listed (copy)', tracks: [{ id: 'a' }] } });
  await deleteSong(id);
  expect((await listSongs()).some((song) => song.id === id)).toBe(false);
  await expect(loadSong(id)).rejects.toMatchObject({ code: 'not-found' });
  expect(await songExists(id)).toBe(true);
  expect((await restoreSong(id)).song.title).toBe('Listed');
  await expect(restoreSong(id)).rejects.toMatchObject({ code: 'not-found' });
});

test('a song that is not there is said to be so', async () => {
  await expect(submitEdits('nowhere', 'w', [{ id: 'e', edit: addTrack }])).rejects.toMatchObject({
    code: 'not-found',
    message: expect.stringContaining('nowhere'),
  });
});
