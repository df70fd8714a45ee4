import path from 'node:path';
import { eq } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import type { RenderFormat } from '@/core/formats';
import { songLengthFrames, type Song } from '@/core/song';
import { withWholeRecordings } from '../audio/mending';
import type { PageFile } from '../audio/page-file';
import { discard, needAudio, pageFileOf, settle, temporaryPath } from '../audio/store';
import { config } from '../config';
import { database } from '../database/client';
import { renders } from '../database/schema';
import type { Job, JobResult, RenderOrder } from '../jobs/job';
import { setRunner, startJob, type Report } from '../jobs/jobs';
import { loadSong } from '../songs/store';
import { runInWorker } from '../workers/pool';
import { clippingRemark, fileNameOf } from './naming';
import type { RenderedFile } from './render-song';

/** The pages of a song's recordings. @throws OrvidError `not-found` */
async function pageFilesOf(song: Song): Promise<Record<string, PageFile>> {
  const rows = await Promise.all(song.tracks.map((track) => needAudio(track.audioId)));
  return Object.fromEntries(rows.map((row) => [row.id, pageFileOf(row)]));
}

/** Does something with the pages of a song's recordings; damaged ones are made anew. @throws OrvidError `not-found`, `damaged` */
export function withPageFiles<T>(song: Song, use: (pageFiles: Record<string, PageFile>) => Promise<T>): Promise<T> {
  return withWholeRecordings(
    song.tracks.map((track) => track.audioId),
    async () => use(await pageFilesOf(song)),
  );
}

const renderPath = (renderId: string) => path.join(config().dataDir, 'renders', `${renderId}.wav`);

/** Starts a render of the song as it stands now. @throws OrvidError `invalid-input` for a song without tracks */
export async function startRender(songId: string, format: RenderFormat): Promise<Job> {
  const { song, revision } = await loadSong(songId);
  if (songLengthFrames(song) === 0)
    throw new OrvidError('invalid-input', 'There is nothing to render: the song has no tracks yet.');
  return startJob({ songId, name: fileNameOf(song.title) }, { kind: 'render', song, revision, format });
}

async function renderMixFile(
  { id, songId }: Pick<Job, 'id' | 'songId'>,
  { song, revision, format }: RenderOrder,
  signal: AbortSignal,
  report: Report,
): Promise<JobResult> {
  const out = await temporaryPath();
  try {
    const { clippedSamples } = await withPageFiles(song, async (pageFiles) => {
      await discard(out);
      return runInWorker<RenderedFile>('render', { song, pageFiles, out, format }, signal, report);
    });
    signal.throwIfAborted();
    await settle(out, renderPath(id));
    const db = await database();
    await db
      .insert(renders)
      .values({ id, songId, revision, fileName: fileNameOf(song.title), format, createdAt: new Date() })
      .onConflictDoNothing();
    return { resultId: id, ...(clippedSamples > 0 && { remark: clippingRemark(clippedSamples) }) };
  } finally {
    await discard(out);
  }
}
setRunner('render', renderMixFile);

/** A finished render: where its file lies and what it is called. @throws OrvidError `not-found` */
export async function findRender(renderId: string): Promise<{ file: string; fileName: string }> {
  const db = await database();
  const [row] = await db.select().from(renders).where(eq(renders.id, renderId));
  if (!row) throw new OrvidError('not-found', 'There is no such render.');
  return { file: renderPath(row.id), fileName: row.fileName };
}
