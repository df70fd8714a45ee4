import path from 'node:path';
import { eq } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import type { RenderFormat } from '@/core/formats';
import { newId, songLengthFrames, type Song } from '@/core/song';
import { discard, pagesPath, settle, temporaryPath } from '../audio/store';
import { config } from '../config';
import { database } from '../database/client';
import { renders } from '../database/schema';
import { startJob, type Job } from '../jobs/jobs';
import { loadSong } from '../songs/store';
import { runInWorker } from '../workers/pool';
import { clippingRemark, fileNameOf } from './naming';
import type { RenderedFile } from './render-song';

export const pageFilesOf = (song: Song) =>
  Object.fromEntries(song.tracks.map((track) => [track.audioId, pagesPath(track.audioId)]));

const renderPath = (renderId: string) => path.join(config().dataDir, 'renders', `${renderId}.wav`);

/** Starts a render of the song as it stands now. @throws OrvidError `invalid-input` for a song without tracks */
export async function startRender(songId: string, format: RenderFormat): Promise<Job> {
  const { song, revision } = await loadSong(songId);
  if (songLengthFrames(song) === 0)
    throw new OrvidError('invalid-input', 'There is nothing to render: the song has no tracks yet.');
  const fileName = fileNameOf(song.title);
  return startJob({ songId, kind: 'render', name: fileName }, async (signal, report) => {
    const out = await temporaryPath();
    try {
      const { clippedSamples } = await runInWorker<RenderedFile>(
        'render',
        { song, pageFiles: pageFilesOf(song), out, format },
        signal,
        report,
      );
      signal.throwIfAborted();
      const id = newId(16);
      await settle(out, renderPath(id));
      const db = await database();
      await db.insert(renders).values({ id, songId, revision, fileName, format, createdAt: new Date() });
      return { resultId: id, ...(clippedSamples > 0 && { remark: clippingRemark(clippedSamples) }) };
    } finally {
      await discard(out);
    }
  });
}

/** A finished render: where its file lies and what it is called. @throws OrvidError `not-found` */
export async function findRender(renderId: string): Promise<{ file: string; fileName: string }> {
  const db = await database();
  const [row] = await db.select().from(renders).where(eq(renders.id, renderId));
  if (!row) throw new OrvidError('not-found', 'There is no such render.');
  return { file: renderPath(row.id), fileName: row.fileName };
}
