import { rm } from 'node:fs/promises';
import path from 'node:path';
import { PassThrough, Readable } from 'node:stream';
import { desc, eq } from 'drizzle-orm';
import { ZipFile } from 'yazl';
import { OrvidError } from '@/core/errors';
import { unlike, type FinishedFile } from '@/core/renders';
import { config } from '../config';
import { database } from '../database/client';
import { renders } from '../database/schema';

/** Files that were made of songs to hand on. */

/** Where a finished file lies: its name in the folder is its id, whatever it is called. */
export const finishedPath = (id: string, fileName: string) =>
  path.join(config().dataDir, 'renders', `${id}${path.extname(fileName)}`);

/** @throws OrvidError `not-found` */
export async function findFinished(renderId: string): Promise<{ file: string; fileName: string }> {
  const db = await database();
  const [row] = await db.select().from(renders).where(eq(renders.id, renderId));
  if (!row) throw new OrvidError('not-found', 'There is no such file. It may have been removed.');
  return { file: finishedPath(row.id, row.fileName), fileName: row.fileName };
}

/** What was made of a song, the latest first. */
export async function finishedOf(songId: string): Promise<FinishedFile[]> {
  const db = await database();
  const rows = await db.select().from(renders).where(eq(renders.songId, songId)).orderBy(desc(renders.createdAt));
  return rows.map(({ id, fileName, format, revision, createdAt, about }) => ({
    id,
    fileName,
    format,
    revision,
    createdAt: createdAt.toISOString(),
    about,
  }));
}

/** Removes a finished file. @throws OrvidError `not-found` */
export async function removeFinished(renderId: string): Promise<void> {
  const { file } = await findFinished(renderId);
  const db = await database();
  await db.delete(renders).where(eq(renders.id, renderId));
  await rm(file, { force: true });
}

/** Tells of a finished file that is in its place. Done twice it is one. */
export async function keepFinished(row: Omit<typeof renders.$inferInsert, 'createdAt'>): Promise<void> {
  const db = await database();
  await db
    .insert(renders)
    .values({ ...row, createdAt: new Date() })
    .onConflictDoNothing();
}

const TYPES: Record<string, string> = {
  '.wav': 'audio/wav',
  '.flac': 'audio/flac',
  '.mp3': 'audio/mpeg',
  '.zip': 'application/zip',
  '.html': 'text/html; charset=utf-8',
};
export const typeOf = (fileName: string) => TYPES[path.extname(fileName)] ?? 'application/octet-stream';

/** A name in a header: in plain letters for old readers, and as it is. Source: RFC 6266. */
export const asAttachment = (fileName: string) =>
  `attachment; filename="${fileName.replace(/[^\x20-\x7e]|["\\]/g, '_')}"; filename*=UTF-8''${encodeURIComponent(fileName)}`;

/** Finished files in one, as they are: sound does not become smaller. */
export function zipOfFinished(files: readonly FinishedFile[], signal: AbortSignal): ReadableStream {
  const zip = new ZipFile();
  const out = new PassThrough();
  zip.on('error', (error) => out.destroy(error as Error));
  signal.addEventListener('abort', () => out.destroy());
  const taken = new Map<string, Set<string>>();
  for (const { id, fileName, createdAt } of [...files].reverse()) {
    const { name, ext } = path.parse(fileName);
    const ofKind = taken.get(ext) ?? new Set();
    taken.set(ext, ofKind);
    zip.addFile(finishedPath(id, fileName), `${unlike(name, ofKind)}${ext}`, {
      compress: false,
      mtime: new Date(createdAt),
    });
  }
  zip.end();
  zip.outputStream.pipe(out);
  return Readable.toWeb(out) as ReadableStream;
}
