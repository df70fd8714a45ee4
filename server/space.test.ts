import { existsSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import { PcmEncoder, wavHeader } from '@/core/formats';
import type { Edit } from '@/core/song';
import { findAudio, originalPath, pagesPath } from './audio/store';
import { database } from './database/client';
import { receiveUpload, startImport } from './import/import-track';
import { findJob, jobsEnded } from './jobs/jobs';
import { plainOrder } from '@/core/renders';
import { findFinished } from './render/finished';
import { startRenders } from './render/render-job';
import { createEmptySong, deleteSong, loadSong, restoreSong, songExists, submitEdits } from './songs/store';
import { clearSpace, KEPT_DAYS, measureSpace } from './space';
import { ownDataFolder } from './testing/data-folder';

const folder = ownDataFolder();

/** A song with one recording of its own. */
async function recorded(hz: number): Promise<{ songId: string; trackId: string; audioId: string }> {
  const samples = Float64Array.from({ length: 9600 }, (_, n) => 0.2 * Math.sin((n * hz) / 7600));
  const wav = Buffer.concat([
    wavHeader({ channels: 1, rateHz: 48000, format: '16', frames: 9600 }),
    new PcmEncoder(1, '16').encode([samples], 9600),
  ]);
  const { id } = await createEmptySong(`Song ${hz}`, 48000);
  await startImport(id, await receiveUpload(new Response(wav).body, `${hz}.wav`), `${hz}.wav`);
  await jobsEnded();
  const [track] = (await loadSong(id)).song.tracks;
  return { songId: id, trackId: track.id, audioId: track.audioId };
}

/** Everything that is kept becomes older by so many days. */
async function age(days: number): Promise<void> {
  const db = await database();
  const ms = days * 86_400_000;
  for (const [table, column] of [
    ['songs', 'deleted_at'],
    ['edits', 'created_at'],
    ['audio', 'created_at'],
    ['renders', 'created_at'],
    ['jobs', 'changed_at'],
  ])
    await db.run(sql.raw(`UPDATE ${table} SET ${column} = ${column} - ${ms}`));
}

test('what a song plays stays, however old; what was removed stays for a month, and is gone after it', async () => {
  const played = await recorded(440);
  const removed = await recorded(550);
  const remove: Edit = { kind: 'track.remove', trackId: removed.trackId };
  await submitEdits(removed.songId, 'w', [{ id: 'remove', edit: remove }]);
  const original = originalPath((await findAudio(removed.audioId))!.originalHash);
  await age(KEPT_DAYS - 1);
  await clearSpace();
  expect(existsSync(pagesPath(removed.audioId))).toBe(true);
  // A month later only the snapshot of the empty song and the document are left, and neither plays it.
  const db = await database();
  const { song, revision } = await loadSong(removed.songId);
  await db.run(
    sql`UPDATE songs SET document = ${JSON.stringify(song)}, document_revision = ${revision} WHERE id = ${removed.songId}`,
  );
  await age(2);
  await clearSpace();
  expect([existsSync(pagesPath(removed.audioId)), existsSync(original)]).toEqual([false, false]);
  expect(await findAudio(removed.audioId)).toBeUndefined();
  expect(existsSync(pagesPath(played.audioId))).toBe(true);
  expect((await loadSong(played.songId)).song.tracks).toHaveLength(1);
});

test('a deleted song can be put back for a month; then it is gone with its recordings', async () => {
  const { songId, audioId } = await recorded(660);
  await deleteSong(songId);
  await age(KEPT_DAYS - 1);
  await clearSpace();
  expect((await restoreSong(songId)).song.tracks).toHaveLength(1);
  await deleteSong(songId);
  await age(KEPT_DAYS + 1);
  await clearSpace();
  expect(await songExists(songId)).toBe(false);
  await clearSpace();
  expect(existsSync(pagesPath(audioId))).toBe(false);
});

test('old renders and files that nobody knows are cleared; what is used is told', async () => {
  const { songId } = await recorded(770);
  const [job] = await startRenders(songId, plainOrder);
  await jobsEnded();
  const { resultId } = await findJob(job.id);
  const { file } = await findFinished(resultId!);
  const orphan = path.join(folder, 'audio', 'pages', 'f'.repeat(64));
  writeFileSync(orphan, Buffer.alloc(5000));
  utimesSync(orphan, new Date(0), new Date(0));
  const space = await measureSpace();
  expect(space.renders).toBeGreaterThan(19000);
  expect(space.recordings).toBeGreaterThan(40000);
  expect(space.unneeded).toBeGreaterThanOrEqual(5000 + 19000);
  await age(KEPT_DAYS + 1);
  await clearSpace();
  expect([existsSync(file), existsSync(orphan)]).toEqual([false, false]);
  await expect(findFinished(resultId!)).rejects.toMatchObject({ code: 'not-found' });
  expect((await measureSpace()).unneeded).toBe(0);
});
