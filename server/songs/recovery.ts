import { desc, eq, sql } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import type { Song } from '@/core/song';
import { database } from '../database/client';
import { snapshots, songs } from '../database/schema';
import { afterLine, journalAfter, readDocument, rowOf, type Reader } from './reading';
import { columnsOf, forget, keepSnapshot, type StoredSong } from './store';

/** What can be done with a song that is damaged. */

const snapshotsOf = (db: Reader, songId: string) =>
  db
    .select({ revision: snapshots.revision, document: sql<string>`${snapshots.document}` })
    .from(snapshots)
    .where(eq(snapshots.songId, songId))
    .orderBy(desc(snapshots.revision));

/** Everything that there is of a song, as it lies in the database: texts, since they may be no JSON any more. @throws OrvidError `not-found` */
export async function archiveOf(songId: string) {
  const db = await database();
  const { title, revision, documentRevision, document } = await rowOf(db, songId);
  return {
    format: 'orvid.archive',
    version: 1,
    title,
    revision,
    document: { revision: documentRevision, text: document },
    snapshots: (await snapshotsOf(db, songId)).map((snapshot) => ({
      revision: snapshot.revision,
      text: snapshot.document,
    })),
    journal: await journalAfter(db, songId, -1),
  };
}

/** As far as the journal leads from a document. */
function asFarAsItGoes(text: string, revision: number, journal: Awaited<ReturnType<typeof journalAfter>>) {
  let song: Song;
  try {
    song = readDocument(text);
  } catch {
    return null;
  }
  let reached = revision;
  for (const line of journal.filter((later) => later.revision > revision)) {
    try {
      song = afterLine(song, line);
      reached = line.revision;
    } catch {
      break;
    }
  }
  return { song, reached };
}

/**
 * Puts a damaged song back to the latest state that can be made of its snapshots and its journal. The journal stays whole: it can be had
 * from the archive.
 * @returns the song, and the last revision of the old journal that is in it
 * @throws OrvidError `not-found`, `damaged` where no snapshot can be read
 */
export async function goBack(songId: string): Promise<StoredSong & { reached: number }> {
  const db = await database();
  const result = await db.transaction(async (tx) => {
    const row = await rowOf(tx, songId);
    const documents = [{ revision: row.documentRevision, document: row.document }, ...(await snapshotsOf(tx, songId))];
    const journal = await journalAfter(tx, songId, -1);
    const [best] = documents
      .map(({ revision, document }) => asFarAsItGoes(document, revision, journal))
      .filter((state) => state !== null)
      .sort((a, b) => b.reached - a.reached);
    if (!best)
      throw new OrvidError(
        'damaged',
        'None of the kept states of this song can be read.',
        'Nothing was changed. Download its document and journal.',
      );
    // A revision of its own: windows that are open see that they are behind, and load it anew.
    const revision = row.revision + 1;
    await tx
      .update(songs)
      .set({ ...columnsOf(best.song), document: best.song, documentRevision: revision, revision, problem: null })
      .where(eq(songs.id, songId));
    await keepSnapshot(tx, songId, revision, best.song);
    return { id: songId, revision, song: best.song, reached: best.reached };
  });
  forget(songId);
  return result;
}
