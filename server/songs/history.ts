import { and, asc, desc, eq, lte, gt, sql } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import type { Song } from '@/core/song';
import { database } from '../database/client';
import { edits, snapshots, songs } from '../database/schema';
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
