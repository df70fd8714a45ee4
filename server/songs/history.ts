import { and, asc, desc, eq, lte, gt, sql } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import { describeEdit } from '@/core/history';
import type { Edit, Song } from '@/core/song';
import { database } from '../database/client';
import { edits, moments, snapshots, songs } from '../database/schema';
import { loadSong } from './store';
import { afterLine, gone, readDocument, type StoredSong } from './reading';

/** The state that is kept nearest before a revision. */
async function stateBefore(songId: string, revision: number): Promise<{ revision: number; song: Song }> {
  const db = await database();
  const [row] = await db
    .select({ revision: snapshots.revision, document: sql<string>`${snapshots.document}` })
    .from(snapshots)
    .where(and(eq(snapshots.songId, songId), lte(snapshots.revision, revision)))
    .orderBy(desc(snapshots.revision))
    .limit(1);
  if (row) return { revision: row.revision, song: readDocument(row.document) };
  throw new OrvidError('not-found', 'The history of this song does not reach back so far.');
}

/** A song as it stood after so many changes. @throws OrvidError `not-found`, or as {@link loadSong} does */
export async function songAt(songId: string, revision: number): Promise<StoredSong> {
  const now = await loadSong(songId);
  if (revision === now.revision) return now;
  if (revision > now.revision) throw new OrvidError('not-found', 'This moment has not come yet.');
  const before = await stateBefore(songId, revision);
  const db = await database();
  const lines = await db
    .select({ revision: edits.revision, version: edits.version, edit: sql<string>`${edits.edit}` })
    .from(edits)
    .where(and(eq(edits.songId, songId), gt(edits.revision, before.revision), lte(edits.revision, revision)))
    .orderBy(asc(edits.revision));
  return { id: songId, revision, song: lines.reduce(afterLine, before.song) };
}

/** When a song became what it is at a revision. */
export async function changedAt(songId: string, revision: number): Promise<Date> {
  const db = await database();
  const [line] = await db
    .select({ createdAt: edits.createdAt })
    .from(edits)
    .where(and(eq(edits.songId, songId), eq(edits.revision, revision)));
  if (line) return line.createdAt;
  const [song] = await db.select({ createdAt: songs.createdAt }).from(songs).where(eq(songs.id, songId));
  if (!song) throw gone(songId);
  return song.createdAt;
}

/** A change of the journal, in words. */
export interface HistoryLine {
  /** The song is this after it. */
  revision: number;
  at: string;
  words: string[];
  /** The name that the moment was given; empty for none. */
  name: string;
}

/** Changes that are told at once. */
const LINES_TOLD = 100;

/** How far back the history of a song reaches. */
async function firstRevision(songId: string): Promise<number> {
  const db = await database();
  const [row] = await db
    .select({ revision: snapshots.revision })
    .from(snapshots)
    .where(eq(snapshots.songId, songId))
    .orderBy(asc(snapshots.revision))
    .limit(1);
  return row?.revision ?? 0;
}

/**
 * The changes before a revision, the latest first, each in words.
 * @param until the last one that is told; the default is the latest
 * @returns them, and the revision before which there may be more; null where there are none
 */
export async function historyOf(
  songId: string,
  until?: number,
): Promise<{ lines: HistoryLine[]; more: number | null; named: HistoryLine[] }> {
  const now = await loadSong(songId);
  const last = Math.min(until ?? now.revision, now.revision);
  const oldest = await firstRevision(songId);
  const first = Math.max(oldest, last - LINES_TOLD);
  const named = await namedMoments(songId);
  const nameOf = new Map(named.map(({ revision, name }) => [revision, name]));
  const lines: HistoryLine[] = [];
  if (last > first) {
    const db = await database();
    let { song } = await songAt(songId, first);
    const rows = await db
      .select({
        revision: edits.revision,
        version: edits.version,
        edit: sql<string>`${edits.edit}`,
        createdAt: edits.createdAt,
      })
      .from(edits)
      .where(and(eq(edits.songId, songId), gt(edits.revision, first), lte(edits.revision, last)))
      .orderBy(asc(edits.revision));
    for (const row of rows) {
      const after = afterLine(song, row);
      lines.unshift({
        revision: row.revision,
        at: row.createdAt.toISOString(),
        words: describeEdit(song, after, JSON.parse(row.edit) as Edit),
        name: nameOf.get(row.revision) ?? '',
      });
      song = after;
    }
  }
  return { lines, more: first > oldest ? first : null, named };
}

async function namedMoments(songId: string): Promise<HistoryLine[]> {
  const db = await database();
  const rows = await db.select().from(moments).where(eq(moments.songId, songId)).orderBy(desc(moments.revision));
  return rows.map(({ revision, name, createdAt }) => ({ revision, name, at: createdAt.toISOString(), words: [] }));
}

/** Gives a moment a name; an empty one takes it away. @throws OrvidError `not-found` for a moment that is not there */
export async function nameMoment(songId: string, revision: number, name: string): Promise<void> {
  await songAt(songId, revision);
  const db = await database();
  if (name === '') await db.delete(moments).where(and(eq(moments.songId, songId), eq(moments.revision, revision)));
  else
    await db
      .insert(moments)
      .values({ songId, revision, name, createdAt: await changedAt(songId, revision) })
      .onConflictDoUpdate({ target: [moments.songId, moments.revision], set: { name } });
}
