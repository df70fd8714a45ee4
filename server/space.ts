import { readdir, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { and, eq, inArray, isNotNull, lt, sql } from 'drizzle-orm';
import { measuredPaths, originalPath, pagesPath, suspectsPath } from './audio/store';
import { config } from './config';
import { database } from './database/client';
import { audio, edits, jobs, moments, renders, snapshots, songs } from './database/schema';
import { log } from './log';
import { finishedPath } from './render/finished';
import { singleton } from './singleton';

/** What lies in the data folder, what of it nobody needs any more, and how that is cleared. */

/** So long everything stays that was removed or is old: undo works until then. */
export const KEPT_DAYS = 30;
const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;

export interface Space {
  /** Bytes by what they are for. */
  recordings: number;
  renders: number;
  database: number;
  backups: number;
  /** Bytes that nobody needs any more. */
  unneeded: number;
}

async function bytesOf(file: string): Promise<number> {
  const found = await stat(file).catch(() => null);
  if (!found?.isDirectory()) return found?.size ?? 0;
  const sizes = await Promise.all((await readdir(file)).map((name) => bytesOf(path.join(file, name))));
  return sizes.reduce((sum, size) => sum + size, 0);
}

const filesOf = ({ id, originalHash }: { id: string; originalHash: string }) => [
  pagesPath(id),
  ...measuredPaths(id),
  suspectsPath(id),
  originalPath(originalHash),
];
const AUDIO_IDS = /[0-9a-f]{64}/g;

/** Texts in which recordings are named that must stay, a song at a time, so that everything else goes on meanwhile. */
async function* wantedTexts(before: Date): AsyncGenerator<{ text: string }[]> {
  const db = await database();
  for (const { id } of await db.select({ id: songs.id }).from(songs)) {
    yield await db
      .select({ text: sql<string>`${songs.document}` })
      .from(songs)
      .where(eq(songs.id, id));
    yield await db
      .select({ text: sql<string>`${snapshots.document}` })
      .from(snapshots)
      .where(eq(snapshots.songId, id));
    // Changes since the last snapshot are part of the song; those of late can be undone.
    yield await db
      .select({ text: sql<string>`${edits.edit}` })
      .from(edits)
      .innerJoin(songs, eq(edits.songId, songs.id))
      .where(
        and(
          eq(edits.songId, id),
          sql`(${edits.revision} > ${songs.documentRevision} OR ${edits.createdAt} > ${before.getTime()})`,
        ),
      );
  }
  yield await db
    .select({ text: sql<string>`${jobs.task}` })
    .from(jobs)
    .where(eq(jobs.isRunning, true));
}

/** Recordings that no song plays, no draft, no state to go back to, no deleted song that can be put back, and no change of late. */
async function unusedRecordings(before: Date) {
  const used = new Set<string>();
  for await (const texts of wantedTexts(before))
    for (const { text } of texts) for (const id of text.match(AUDIO_IDS) ?? []) used.add(id);
  const db = await database();
  const old = await db
    .select()
    .from(audio)
    .where(lt(audio.createdAt, settledBefore(before)));
  return old.filter(({ id }) => !used.has(id));
}

/** What came in within the last hour may belong to an import that has not ended. */
const settledBefore = (before: Date) => new Date(Math.min(before.getTime(), Date.now() - HOUR_MS));

async function expired(before: Date) {
  const db = await database();
  return {
    songs: await db
      .select({ id: songs.id })
      .from(songs)
      .where(and(isNotNull(songs.deletedAt), lt(songs.deletedAt, before))),
    renders: await db
      .select({ id: renders.id, fileName: renders.fileName })
      .from(renders)
      .where(lt(renders.createdAt, before)),
    recordings: await unusedRecordings(before),
    orphans: await orphans(before),
  };
}

/** Files among the recordings that the database knows nothing of, and what older versions have measured. */
async function orphans(before: Date): Promise<string[]> {
  const db = await database();
  const rows = await db.select({ id: audio.id, originalHash: audio.originalHash }).from(audio);
  const known = new Set(rows.flatMap(filesOf));
  const folder = path.join(config().dataDir, 'audio');
  const found: string[] = [];
  for (const part of await readdir(folder).catch(() => []))
    for (const name of await readdir(path.join(folder, part)).catch(() => [])) {
      const file = path.join(folder, part, name);
      if (!known.has(file) && (await stat(file)).mtime < settledBefore(before)) found.push(file);
    }
  return found;
}

const measured = () => singleton('space', () => ({ space: null as Promise<Space> | null }));
/** What was measured is told for so long: every visit of the songs' page asks. */
const TOLD_MS = 300_000;

/** What is used, and what of it would be cleared now; measured once in a while. */
export function measureSpace(): Promise<Space> {
  const state = measured();
  if (state.space) return state.space;
  const space = measureNow();
  state.space = space;
  const forget = () => {
    if (state.space === space) state.space = null;
  };
  space.then(() => setTimeout(forget, TOLD_MS).unref(), forget);
  return space;
}

async function measureNow(): Promise<Space> {
  const { dataDir } = config();
  const at = (name: string) => bytesOf(path.join(dataDir, name));
  const unneeded = await expired(new Date());
  const files = [
    ...unneeded.renders.map(({ id, fileName }) => finishedPath(id, fileName)),
    ...(await ownFiles(unneeded.recordings)),
    ...unneeded.orphans,
  ];
  const sizes = await Promise.all(files.map(bytesOf));
  return {
    recordings: await at('audio'),
    renders: await at('renders'),
    database: (await at('orvid.db')) + (await at('orvid.db-wal')),
    backups: await at('backups'),
    unneeded: sizes.reduce((sum, size) => sum + size, 0),
  };
}

/** The files of recordings, but for originals that others were made of too. */
async function ownFiles(recordings: (typeof audio.$inferSelect)[]): Promise<string[]> {
  const db = await database();
  const gone = new Set(recordings.map(({ id }) => id));
  const rest = (await db.select({ id: audio.id, hash: audio.originalHash }).from(audio)).filter(
    ({ id }) => !gone.has(id),
  );
  const kept = new Set(rest.map(({ hash }) => originalPath(hash)));
  return recordings.flatMap(filesOf).filter((file) => !kept.has(file));
}

/**
 * Clears what nobody has needed since a time: old renders, songs that were deleted, recordings that nothing plays, files that nobody knows,
 * and the memory of jobs that have ended.
 */
export async function clearSpace(before = new Date(Date.now() - KEPT_DAYS * DAY_MS)): Promise<void> {
  const db = await database();
  const old = await expired(before);
  const songIds = old.songs.map(({ id }) => id);
  const files = [
    ...old.renders.map(({ id, fileName }) => finishedPath(id, fileName)),
    ...(await ownFiles(old.recordings)),
    ...old.orphans,
  ];
  await db.transaction(async (tx) => {
    for (const table of [edits, snapshots, moments, renders] as const)
      await tx.delete(table).where(inArray(table.songId, songIds));
    await tx.delete(songs).where(inArray(songs.id, songIds));
    const renderIds = old.renders.map(({ id }) => id);
    const audioIds = old.recordings.map(({ id }) => id);
    await tx.delete(renders).where(inArray(renders.id, renderIds));
    await tx.delete(audio).where(inArray(audio.id, audioIds));
    await tx.delete(jobs).where(and(eq(jobs.isRunning, false), lt(jobs.changedAt, before)));
  });
  // What is not in the database any more is in nobody's way: a crash here leaves files, which are cleared as unknown the next time.
  for (const file of files) await rm(file, { force: true });
  measured().space = null;
}

/** Looks once a day. */
export function clearSpaceDaily(): void {
  const clear = () => clearSpace().catch((error: unknown) => log.error({ error }, 'old files could not be cleared'));
  void clear();
  setInterval(() => void clear(), DAY_MS).unref();
}
