import { and, asc, desc, eq, gt, isNotNull, isNull } from 'drizzle-orm';
import { OrvidError, asOrvidError } from '@/core/errors';
import { applyEdit, emptySong, newId, songLengthFrames, songSchema, type Edit, type Song } from '@/core/song';
import { database, type Database } from '../database/client';
import { edits, songs } from '../database/schema';
import { singleton } from '../singleton';
import { publish } from './events';

/** A song with the number of edits that made it. */
export interface StoredSong {
  id: string;
  revision: number;
  song: Song;
}

/** A line of the list of songs. */
export interface SongSummary {
  id: string;
  title: string;
  tracks: number;
  lengthSeconds: number;
  changedAt: string;
}

/** An edit on its way to the journal. */
export interface IncomingEdit {
  id: string;
  edit: Edit;
}

/** What became of an incoming edit: the revision it made, or why it was refused. */
export type EditOutcome =
  { id: string; revision: number } | { id: string; error: { code: string; message: string; kept?: string } };

/** A snapshot is written every so many edits; in between the journal alone grows. */
const SNAPSHOT_EVERY = 50;

/** Songs as they stand, so that an edit need not read its whole song again. Each entry is checked against the database. */
const cache = () => singleton('songs', () => new Map<string, StoredSong>());
const queues = () => singleton('song-queues', () => new Map<string, Promise<unknown>>());

/** Runs tasks of one song one after the other. */
function inTurn<T>(songId: string, task: () => Promise<T>): Promise<T> {
  const before = queues().get(songId) ?? Promise.resolve();
  const run = before.then(task, task);
  const settled = run.catch(() => undefined);
  queues().set(songId, settled);
  void settled.then(() => {
    if (queues().get(songId) === settled) queues().delete(songId);
  });
  return run;
}

function gone(songId: string): OrvidError {
  return new OrvidError(
    'not-found',
    `There is no song “${songId}”. It may have been deleted; the list of songs shows what there is.`,
  );
}

type Reader = Pick<Database, 'select'>;

async function readSong(db: Reader, songId: string): Promise<StoredSong> {
  const [row] = await db
    .select()
    .from(songs)
    .where(and(eq(songs.id, songId), isNull(songs.deletedAt)));
  if (!row) throw gone(songId);
  const known = cache().get(songId);
  if (known?.revision === row.revision) return known;
  const later = await db
    .select({ edit: edits.edit })
    .from(edits)
    .where(and(eq(edits.songId, songId), gt(edits.revision, row.documentRevision)))
    .orderBy(asc(edits.revision));
  const song = later.reduce((current, { edit }) => applyEdit(current, edit), songSchema.parse(row.document));
  const stored = { id: songId, revision: row.revision, song };
  cache().set(songId, stored);
  return stored;
}

/** A song as it stands. @throws OrvidError `not-found` */
export async function loadSong(songId: string): Promise<StoredSong> {
  return readSong(await database(), songId);
}

/** All songs, the one changed last first. */
export async function listSongs(): Promise<SongSummary[]> {
  const db = await database();
  const rows = await db
    .select({ id: songs.id, changedAt: songs.changedAt })
    .from(songs)
    .where(isNull(songs.deletedAt))
    .orderBy(desc(songs.changedAt));
  return Promise.all(
    rows.map(async ({ id, changedAt }) => {
      const { song } = await readSong(db, id);
      return {
        id,
        title: song.title,
        tracks: song.tracks.length,
        lengthSeconds: songLengthFrames(song) / song.rateHz,
        changedAt: changedAt.toISOString(),
      };
    }),
  );
}

/** Adds a song. @param id for a song that must be found again, as the demo is */
export async function createSong(song: Song, id = newId(12)): Promise<StoredSong> {
  const db = await database();
  const now = new Date();
  await db.insert(songs).values({
    id,
    title: song.title,
    revision: 0,
    document: songSchema.parse(song),
    documentRevision: 0,
    createdAt: now,
    changedAt: now,
  });
  return { id, revision: 0, song };
}

export async function createEmptySong(title: string, rateHz: Song['rateHz']): Promise<StoredSong> {
  return createSong(emptySong(title, rateHz));
}

/** A second song with the same tracks and settings; recordings are shared, since they never change. */
export async function duplicateSong(songId: string): Promise<StoredSong> {
  const { song } = await loadSong(songId);
  return createSong({ ...song, title: `${song.title} (copy)`.slice(0, 120) });
}

/** Takes a song off the list; {@link restoreSong} puts it back. */
export async function deleteSong(songId: string): Promise<void> {
  const db = await database();
  await loadSong(songId);
  await db.update(songs).set({ deletedAt: new Date() }).where(eq(songs.id, songId));
}

/** @throws OrvidError `not-found` when no such song was deleted */
export async function restoreSong(songId: string): Promise<StoredSong> {
  const db = await database();
  const { rowsAffected } = await db
    .update(songs)
    .set({ deletedAt: null })
    .where(and(eq(songs.id, songId), isNotNull(songs.deletedAt)));
  if (rowsAffected === 0) throw gone(songId);
  return loadSong(songId);
}

/** True for a song that exists, deleted or not. */
export async function songExists(songId: string): Promise<boolean> {
  const db = await database();
  return (await db.select({ id: songs.id }).from(songs).where(eq(songs.id, songId))).length > 0;
}

/**
 * Applies edits in order, each in one transaction with its line in the journal, and tells the song's windows. An edit that
 * came before (the same id) is acknowledged again and not applied twice. An edit that cannot be applied is refused by itself.
 * @throws OrvidError `not-found` when there is no such song, or it was deleted
 */
export async function submitEdits(
  songId: string,
  clientId: string,
  incoming: readonly IncomingEdit[],
): Promise<EditOutcome[]> {
  return inTurn(songId, async () => {
    await loadSong(songId);
    const outcomes: EditOutcome[] = [];
    for (const one of incoming) {
      try {
        outcomes.push({ id: one.id, revision: await submitOne(songId, clientId, one) });
      } catch (thrown) {
        const error = asOrvidError(thrown);
        if (error.code === 'internal') throw thrown;
        outcomes.push({ id: one.id, error: error.toJSON() });
      }
    }
    return outcomes;
  });
}

async function submitOne(songId: string, clientId: string, { id, edit }: IncomingEdit): Promise<number> {
  const db = await database();
  const now = new Date();
  const result = await db.transaction(async (tx) => {
    const [known] = await tx
      .select({ revision: edits.revision })
      .from(edits)
      .where(and(eq(edits.songId, songId), eq(edits.id, id)));
    if (known) return { revision: known.revision, stored: null };
    const current = await readSong(tx, songId);
    const song = applyEdit(current.song, edit);
    const revision = current.revision + 1;
    const snapshot = revision % SNAPSHOT_EVERY === 0 ? { document: song, documentRevision: revision } : {};
    await tx.insert(edits).values({ id, songId, revision, clientId, edit, createdAt: now });
    await tx
      .update(songs)
      .set({ revision, title: song.title, changedAt: now, ...snapshot })
      .where(eq(songs.id, songId));
    return { revision, stored: { id: songId, revision, song } };
  });
  if (result.stored) {
    cache().set(songId, result.stored);
    publish(songId, { type: 'edit', revision: result.revision, editId: id, clientId, edit });
  }
  return result.revision;
}

/** The edits after a revision, for a window that missed some. */
export async function editsSince(songId: string, revision: number) {
  const db = await database();
  const rows = await db
    .select()
    .from(edits)
    .where(and(eq(edits.songId, songId), gt(edits.revision, revision)))
    .orderBy(asc(edits.revision));
  return rows.map((row) => ({
    type: 'edit' as const,
    revision: row.revision,
    editId: row.id,
    clientId: row.clientId,
    edit: row.edit,
  }));
}
