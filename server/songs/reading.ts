import { and, asc, eq, gt, isNull, sql } from 'drizzle-orm';
import { OrvidError, asOrvidError } from '@/core/errors';
import {
  applyEdit,
  EDIT_VERSION,
  songSchema,
  SONG_VERSION,
  upgradeEdit,
  upgradeSong,
  type Edit,
  type Song,
} from '@/core/song';
import type { Database } from '../database/client';
import { edits, songs } from '../database/schema';

/** A song with the number of edits that made it. */
export interface StoredSong {
  id: string;
  revision: number;
  song: Song;
}

/** A database, or a transaction of it. */
export type Reader = Pick<Database, 'select'>;

/** A line of the journal as it lies in the database. */
export interface JournalLine {
  revision: number;
  version: number;
  edit: string;
}

export function gone(songId: string): OrvidError {
  return new OrvidError(
    'not-found',
    `There is no song “${songId}”. It may have been deleted; the list of songs shows what there is.`,
  );
}

const damaged = (what: string) =>
  new OrvidError(
    'damaged',
    `This song is damaged: ${what}.`,
    'Nothing of it was changed. Its document and journal can be downloaded, and it can go back to its last good state.',
  );

const newer = () =>
  new OrvidError(
    'conflict',
    'This song was changed by a newer Orvid, which this one does not understand.',
    'Nothing of it was changed. Open it with the newer one.',
  );

/** The song of a document as it lies in the database. @throws OrvidError `damaged`, or `conflict` for one of a newer version */
export function readDocument(text: string): Song {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    throw damaged('its document cannot be read');
  }
  const parsed = songSchema.safeParse(upgradeSong(document));
  if (parsed.success) return parsed.data;
  const { version } = document as { version?: unknown };
  if (typeof version === 'number' && version > SONG_VERSION) throw newer();
  const [issue] = parsed.error.issues;
  throw damaged(`its document breaks a rule at ${issue.path.join('.') || 'its root'} (${issue.message})`);
}

/** The song after one more line of its journal. @throws OrvidError as {@link readDocument} does */
export function afterLine(song: Song, { revision, version, edit }: JournalLine): Song {
  if (version > EDIT_VERSION) throw newer();
  try {
    const made = JSON.parse(edit) as Edit;
    return applyEdit(song, version < EDIT_VERSION ? upgradeEdit(made) : made);
  } catch (thrown) {
    if (asOrvidError(thrown).code === 'conflict') throw newer();
    throw damaged(`change ${revision} of its journal cannot be done`);
  }
}

/** The journal after a revision, as it lies in the database. */
export async function journalAfter(db: Reader, songId: string, revision: number): Promise<JournalLine[]> {
  return db
    .select({ revision: edits.revision, version: edits.version, edit: sql<string>`${edits.edit}` })
    .from(edits)
    .where(and(eq(edits.songId, songId), gt(edits.revision, revision)))
    .orderBy(asc(edits.revision));
}

/** A song that is not deleted, as it lies in the database. @throws OrvidError `not-found` */
export async function rowOf(db: Reader, songId: string) {
  const [row] = await db
    .select({
      title: songs.title,
      revision: songs.revision,
      documentRevision: songs.documentRevision,
      document: sql<string>`${songs.document}`,
      problem: songs.problem,
      changedAt: sql<number>`${songs.changedAt}`,
    })
    .from(songs)
    .where(and(eq(songs.id, songId), isNull(songs.deletedAt)));
  if (!row) throw gone(songId);
  return row;
}
