import { and, asc, desc, eq, gt, isNotNull, isNull, notInArray, sql } from 'drizzle-orm';
import { OrvidError, asOrvidError, isOfStorage } from '@/core/errors';
import { nameWithin } from '@/core/formats';
import {
  applyEdit,
  EDIT_VERSION,
  emptySong,
  newId,
  songLengthFrames,
  songSchema,
  type Edit,
  type Song,
  type SongSummary,
} from '@/core/song';
import { database, type Database } from '../database/client';
import { edits, snapshots, songs } from '../database/schema';
import { singleton } from '../singleton';
import { publish } from './events';
import { afterLine, gone, journalAfter, readDocument, rowOf, type Reader, type StoredSong } from './reading';

export type { StoredSong };

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
/** The latest snapshots are kept, and of earlier ones one in so many changes, so that any moment is soon read. */
const SNAPSHOTS_KEPT = 4;
const KEPT_EVERY = 500;

/** Songs as they stand, so that an edit need not read its whole song again. Each entry is checked against the database. */
const cache = () => singleton('songs', () => new Map<string, StoredSong & { changedAt: number }>());

function remembered(stored: StoredSong, changedAt: number): StoredSong {
  cache().set(stored.id, { ...stored, changedAt });
  return stored;
}
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

async function readSong(db: Reader, songId: string): Promise<StoredSong> {
  const row = await rowOf(db, songId);
  const known = cache().get(songId);
  if (known?.revision === row.revision && known.changedAt === row.changedAt) return known;
  const later = await journalAfter(db, songId, row.documentRevision);
  const song = later.reduce(afterLine, readDocument(row.document));
  return remembered({ id: songId, revision: row.revision, song }, row.changedAt);
}

/** Reads a song anew the next time. */
export const forget = (songId: string): void => void cache().delete(songId);

/** A song as it stands. @throws OrvidError `not-found`, `damaged`, or `conflict` for one of a newer version */
export async function loadSong(songId: string): Promise<StoredSong> {
  const db = await database();
  try {
    return await readSong(db, songId);
  } catch (thrown) {
    const { code, message } = asOrvidError(thrown);
    if (code === 'damaged' || code === 'conflict')
      await db.update(songs).set({ problem: message }).where(eq(songs.id, songId));
    throw thrown;
  }
}

/** What the list shows of a song. */
export const columnsOf = (song: Song) => ({
  title: song.title,
  tracks: song.tracks.length,
  lengthSeconds: songLengthFrames(song) / song.rateHz,
});

/** Fills in what the list shows, in songs of older versions. One that cannot be opened stands in the list with its problem. */
async function fillColumns(db: Database): Promise<void> {
  const older = await db
    .select({ id: songs.id })
    .from(songs)
    .where(and(isNull(songs.deletedAt), isNull(songs.tracks), isNull(songs.problem)));
  for (const { id } of older) {
    try {
      const { song } = await loadSong(id);
      await db.update(songs).set(columnsOf(song)).where(eq(songs.id, id));
    } catch (thrown) {
      if (asOrvidError(thrown).code === 'internal') throw thrown;
    }
  }
}

/** All songs, the one changed last first. */
export async function listSongs(): Promise<SongSummary[]> {
  const db = await database();
  await fillColumns(db);
  const rows = await db
    .select({
      id: songs.id,
      title: songs.title,
      tracks: songs.tracks,
      lengthSeconds: songs.lengthSeconds,
      changedAt: songs.changedAt,
      problem: songs.problem,
    })
    .from(songs)
    .where(isNull(songs.deletedAt))
    .orderBy(desc(songs.changedAt));
  return rows.map(({ tracks, lengthSeconds, changedAt, ...row }) => ({
    ...row,
    tracks: tracks ?? 0,
    lengthSeconds: lengthSeconds ?? 0,
    changedAt: changedAt.toISOString(),
  }));
}

/** Keeps a state to go back to, and lets go of the oldest. */
export async function keepSnapshot(
  db: Pick<Database, 'insert' | 'delete' | 'select'>,
  songId: string,
  revision: number,
  document: Song,
): Promise<void> {
  await db.insert(snapshots).values({ songId, revision, document, createdAt: new Date() }).onConflictDoNothing();
  const kept = db
    .select({ revision: snapshots.revision })
    .from(snapshots)
    .where(eq(snapshots.songId, songId))
    .orderBy(desc(snapshots.revision))
    .limit(SNAPSHOTS_KEPT);
  await db
    .delete(snapshots)
    .where(
      and(
        eq(snapshots.songId, songId),
        notInArray(snapshots.revision, kept),
        sql`${snapshots.revision} % ${KEPT_EVERY} <> 0`,
      ),
    );
}

/** Adds a song. @param id for a song that must be found again, as the demo is */
export async function createSong(song: Song, id = newId(12)): Promise<StoredSong> {
  const db = await database();
  const now = new Date();
  const document = songSchema.parse(song);
  await db.transaction(async (tx) => {
    await tx.insert(songs).values({
      id,
      ...columnsOf(song),
      revision: 0,
      document,
      documentRevision: 0,
      createdAt: now,
      changedAt: now,
    });
    await keepSnapshot(tx, id, 0, document);
  });
  return { id, revision: 0, song };
}

export async function createEmptySong(title: string, rateHz: Song['rateHz']): Promise<StoredSong> {
  return createSong(emptySong(title, rateHz));
}

/** A second song with the same tracks and settings; recordings are shared, since they never change. */
export async function duplicateSong(songId: string): Promise<StoredSong> {
  const { song } = await loadSong(songId);
  return createSong({ ...song, title: nameWithin(`${song.title} (copy)`) });
}

/** Takes a song off the list; {@link restoreSong} puts it back. */
export async function deleteSong(songId: string): Promise<void> {
  const db = await database();
  const { rowsAffected } = await db
    .update(songs)
    .set({ deletedAt: new Date() })
    .where(and(eq(songs.id, songId), isNull(songs.deletedAt)));
  if (rowsAffected === 0) throw gone(songId);
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
    for (const edit of incoming) {
      try {
        outcomes.push({ id: edit.id, revision: await submitOne(songId, clientId, edit) });
      } catch (thrown) {
        const error = asOrvidError(thrown);
        if (isOfStorage(error)) throw thrown;
        outcomes.push({ id: edit.id, error: error.toJSON() });
      }
    }
    return outcomes;
  });
}

/** A song that is about to be kept as a whole. @throws OrvidError `invalid-input` where it breaks a rule that no edit should have broken */
function checked(song: Song): Song {
  const { error } = songSchema.safeParse(song);
  if (!error) return song;
  const [issue] = error.issues;
  throw new OrvidError(
    'invalid-input',
    `This would leave a song that breaks a rule at ${issue.path.join('.')}: ${issue.message}.`,
    'Nothing was changed.',
  );
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
    await tx.insert(edits).values({ id, songId, revision, clientId, edit, version: EDIT_VERSION, createdAt: now });
    const isSnapshot = revision % SNAPSHOT_EVERY === 0;
    if (isSnapshot) await keepSnapshot(tx, songId, revision, checked(song));
    await tx
      .update(songs)
      .set({
        ...columnsOf(song),
        revision,
        changedAt: now,
        problem: null,
        ...(isSnapshot && { document: song, documentRevision: revision }),
      })
      .where(eq(songs.id, songId));
    return { revision, stored: { id: songId, revision, song } };
  });
  if (result.stored) {
    remembered(result.stored, now.getTime());
    publish(songId, { type: 'edit', revision: result.revision, editId: id, clientId, edit });
  }
  return result.revision;
}

/** True for an edit that is in the journal of its song. */
export async function isJournalled(songId: string, editId: string): Promise<boolean> {
  const db = await database();
  const rows = await db
    .select({ revision: edits.revision })
    .from(edits)
    .where(and(eq(edits.songId, songId), eq(edits.id, editId)));
  return rows.length > 0;
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
