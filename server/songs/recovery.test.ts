import { eq, sql } from 'drizzle-orm';
import { SONG_VERSION, newTrack, type Edit } from '@/core/song';
import { database } from '../database/client';
import { edits, snapshots, songs } from '../database/schema';
import { ownDataFolder } from '../testing/data-folder';
import { archiveOf, goBack } from './recovery';
import { createEmptySong, deleteSong, forget, listSongs, loadSong, submitEdits } from './store';

ownDataFolder();

const title = (text: string): Edit => ({ kind: 'song.set', changes: { title: text } });
const track = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 96000 }, { id: 'a', name: 'a', ink: 0 });

/** A song with so many edits: a track, then titles that count. */
async function edited(count: number): Promise<string> {
  const { id } = await createEmptySong('Edited', 48000);
  const list: Edit[] = [{ kind: 'track.add', track, index: 0 }];
  for (let i = 2; i <= count; i++) list.push(title(`Title ${i}`));
  await submitEdits(
    id,
    'w',
    list.map((edit, i) => ({ id: `e${i + 1}`, edit })),
  );
  forget(id);
  return id;
}

/** Writes text over the document of a song, past all checks. */
async function overwrite(songId: string, text: string): Promise<void> {
  const db = await database();
  await db.run(sql`UPDATE songs SET document = ${text} WHERE id = ${songId}`);
  forget(songId);
}
async function overwriteEdit(songId: string, revision: number, text: string): Promise<void> {
  const db = await database();
  await db.run(sql`UPDATE edits SET edit = ${text} WHERE song_id = ${songId} AND revision = ${revision}`);
  forget(songId);
}
const inList = async (songId: string) => (await listSongs()).find(({ id }) => id === songId);

test('the list is made of columns: it reads no document, and is right after every edit', async () => {
  const id = await edited(3);
  await overwrite(id, 'no JSON');
  expect(await inList(id)).toMatchObject({ title: 'Title 3', tracks: 1, lengthSeconds: 2, problem: null });
});

test.each([
  ['its document cannot be read', 'no JSON'],
  [
    'its document breaks a rule at tracks',
    '{"format":"orvid.song","version":1,"title":"x","rateHz":48000,"parts":[],"loop":null}',
  ],
])('a damaged song is named and hides no other: %s', async (reason, text) => {
  const other = await edited(2);
  const id = await edited(55);
  await overwrite(id, text);
  await expect(loadSong(id)).rejects.toMatchObject({ code: 'damaged', message: expect.stringContaining(reason) });
  await expect(submitEdits(id, 'w', [{ id: 'x', edit: title('x') }])).rejects.toMatchObject({ code: 'damaged' });
  expect(await inList(id)).toMatchObject({ title: 'Title 55', problem: expect.stringContaining(reason) });
  expect(await inList(other)).toMatchObject({ problem: null });
  const { document, journal, snapshots: kept } = await archiveOf(id);
  expect(document).toEqual({ revision: 50, text });
  expect(journal).toHaveLength(55);
  expect(kept.map(({ revision }) => revision)).toEqual([50, 0]);
  expect(await goBack(id)).toMatchObject({
    revision: 56,
    reached: 55,
    song: { title: 'Title 55', tracks: [{ id: 'a' }] },
  });
  expect(await inList(id)).toMatchObject({ title: 'Title 55', problem: null });
  expect(await submitEdits(id, 'w', [{ id: 'y', edit: title('On') }])).toEqual([{ id: 'y', revision: 57 }]);
  forget(id);
  expect((await loadSong(id)).song.title).toBe('On');
});

test('a journal with a change that cannot be done: the song goes back to the state before it, and the journal is kept', async () => {
  const id = await edited(9);
  await overwriteEdit(id, 6, '{"kind":"track.remove","trackId":"gone"}');
  await expect(loadSong(id)).rejects.toMatchObject({ code: 'damaged', message: expect.stringContaining('change 6') });
  expect(await goBack(id)).toMatchObject({ reached: 5, song: { title: 'Title 5' } });
  expect((await archiveOf(id)).journal).toHaveLength(9);
});

test('a song of which no state can be read says so, changes nothing, and can be deleted', async () => {
  const id = await edited(2);
  await overwrite(id, '[');
  const db = await database();
  await db.delete(snapshots).where(eq(snapshots.songId, id));
  await expect(goBack(id)).rejects.toMatchObject({
    code: 'damaged',
    message: expect.stringContaining('None of the kept'),
  });
  await deleteSong(id);
  expect(await inList(id)).toBeUndefined();
});

test.each([
  [
    'its document',
    (id: string) => overwrite(id, JSON.stringify({ format: 'orvid.song', version: SONG_VERSION + 1, layers: [] })),
  ],
  ['a kind of edit', (id: string) => overwriteEdit(id, 2, '{"kind":"layer.add"}')],
  [
    'the version of an edit',
    async (id: string) => {
      const db = await database();
      await db.update(edits).set({ version: 99 }).where(eq(edits.songId, id));
      forget(id);
    },
  ],
])(
  'a song that a newer application has changed (%s) is refused in words, and nothing of it is changed',
  async (_, harm) => {
    const id = await edited(3);
    await harm(id);
    const db = await database();
    const row = async () => (await db.run(sql`SELECT document, revision FROM songs WHERE id = ${id}`)).rows[0];
    const before = await row();
    const refusal = { code: 'conflict', message: expect.stringContaining('by a newer Orvid') };
    await expect(loadSong(id)).rejects.toMatchObject(refusal);
    await expect(submitEdits(id, 'w', [{ id: 'x', edit: title('x') }])).rejects.toMatchObject(refusal);
    expect(await row()).toEqual(before);
    expect(await inList(id)).toMatchObject({ problem: expect.stringContaining('newer Orvid') });
  },
);

test('songs of the versions before the columns are filled in once, damaged ones too', async () => {
  const [whole, broken] = [await edited(2), await edited(2)];
  await overwrite(broken, '{');
  const db = await database();
  await db.update(songs).set({ tracks: null, lengthSeconds: null });
  expect(await inList(whole)).toMatchObject({ tracks: 1, lengthSeconds: 2, problem: null });
  expect(await inList(broken)).toMatchObject({ problem: expect.stringContaining('cannot be read') });
});
