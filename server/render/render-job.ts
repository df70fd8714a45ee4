import { stat } from 'node:fs/promises';
import { OrvidError } from '@/core/errors';
import { MIX, MOST_FILES, plannedFiles, spanFrames, unknownWords, type RenderOrder } from '@/core/renders';
import type { SoundTags } from '@/core/formats';
import { newId, songLengthFrames, type Song } from '@/core/song';
import { withWholeRecordings } from '../audio/mending';
import type { PageFile } from '../audio/page-file';
import { discard, pageFileOf, settle, storedAudios, temporaryPath } from '../audio/store';
import type { Job, JobResult, RenderTaskOrder } from '../jobs/job';
import { setRunner, startJobs, type Report } from '../jobs/jobs';
import { singleton } from '../singleton';
import { changedAt, songAt } from '../songs/history';
import { loadSong } from '../songs/store';
import { runInWorker } from '../workers/pool';
import { clippingRemark } from './clipping';
import { finishedPath, keepFinished } from './finished';
import type { RenderedFile, RenderTask } from './render-song';
import { soundOf } from './stems';

/** The pages of a song's recordings. @throws OrvidError `not-found`, which names the tracks whose recordings are not here */
async function pageFilesOf(song: Song): Promise<Record<string, PageFile>> {
  const rows = await storedAudios(song.tracks.map((track) => track.audioId));
  const missing = song.tracks.flatMap(({ audioId, name }) => (rows.has(audioId) ? [] : [`“${name}”`]));
  if (missing.length > 0)
    throw new OrvidError(
      'not-found',
      `The recording${missing.length > 1 ? 's' : ''} of ${missing.join(', ')} ${missing.length > 1 ? 'are' : 'is'} not here.`,
      'Nothing was made. Drop the files on the song: they are taken for what is missing; or remove the tracks.',
    );
  return Object.fromEntries([...rows.values()].map((row) => [row.id, pageFileOf(row)]));
}

/** Does something with the pages of a song's recordings; damaged ones are made anew. @throws OrvidError `not-found`, `damaged` */
export function withPageFiles<T>(song: Song, use: (pageFiles: Record<string, PageFile>) => Promise<T>): Promise<T> {
  return withWholeRecordings(
    song.tracks.map((track) => track.audioId),
    async () => use(await pageFilesOf(song)),
  );
}

/** The files of an order. @throws OrvidError `invalid-input` for one that makes none, or too many */
export function filesOfOrder(song: Song, order: RenderOrder) {
  if (songLengthFrames(song) === 0)
    throw new OrvidError('invalid-input', 'There is nothing to render: the song has no tracks yet.');
  const [unknown] = unknownWords(order.pattern);
  if (unknown !== undefined)
    throw new OrvidError(
      'invalid-input',
      `The pattern of the file names has “{${unknown}}”, which stands for nothing.`,
    );
  if (order.settings.file === 'flac' && order.settings.bits === '32f')
    throw new OrvidError('invalid-input', 'FLAC holds 16 or 24 bit; 32-bit float is for WAV.');
  const files = plannedFiles(song, order);
  if (files.length === 0)
    throw new OrvidError('invalid-input', 'There is nothing to render: nothing is chosen, or what is chosen is muted.');
  if (files.length > MOST_FILES)
    throw new OrvidError('invalid-input', `These would be ${files.length} files; ${MOST_FILES} are made at once.`);
  return files;
}

/** Puts the files of an order into the line, of the song as it stands now. @throws OrvidError as {@link filesOfOrder} does */
export async function startRenders(songId: string, order: RenderOrder): Promise<Job[]> {
  const { song, revision } = await loadSong(songId);
  const orderId = newId(12);
  return startJobs(
    filesOfOrder(song, order).map((file) => ({
      about: { songId, name: file.name, orderId, seconds: file.span.endSeconds - file.span.startSeconds },
      task: { kind: 'render', revision, file, settings: order.settings },
    })),
  );
}

/** What a file of an order is rendered from, but for the recordings and where it goes. @param changed when the song was changed last; empty where nobody knows */
export function renderTaskOf(
  song: Song,
  { file, settings }: Pick<RenderTaskOrder, 'file' | 'settings'>,
  changed: string,
): Omit<RenderTask, 'pageFiles' | 'out'> & { tags: SoundTags } {
  const range = spanFrames(song, file.span);
  return {
    song: soundOf(song, file),
    file: settings.file,
    format: settings.bits,
    range,
    tail: { seconds: settings.tailSeconds, of: song },
    loudness: file.what === MIX ? settings.loudness : null,
    tags: {
      title: file.title,
      song: song.title,
      part: file.span.name,
      why: settings.why,
      changedAt: changed,
      startFrame: range.startFrame,
    },
  };
}

/** How long what rings on after the stretches of orders rings: the same for all files of one. */
const tails = () => singleton('render-tails', () => new Map<string, number>());
const TAILS_KEPT = 200;

function keepTail(key: string, frames: number): void {
  tails().set(key, frames);
  for (const old of [...tails().keys()].slice(0, Math.max(0, tails().size - TAILS_KEPT))) tails().delete(old);
}

async function renderFile(
  { id, songId, orderId }: Pick<Job, 'id' | 'songId' | 'orderId'>,
  task: RenderTaskOrder,
  signal: AbortSignal,
  report: Report,
): Promise<JobResult> {
  if (!('file' in task))
    throw new OrvidError(
      'conflict',
      'This render was asked for by an older Orvid.',
      'The song is as it was. Start the render again.',
    );
  const { song } = await songAt(songId, task.revision);
  const changed = (await changedAt(songId, task.revision)).toISOString();
  const tailKey = `${orderId ?? id} ${task.file.span.startSeconds} ${task.file.span.endSeconds}`;
  const out = await temporaryPath();
  try {
    const made = await withPageFiles(song, async (pageFiles) => {
      await discard(out);
      const plan = renderTaskOf(song, task, changed);
      const whole: RenderTask = { ...plan, tail: { ...plan.tail!, frames: tails().get(tailKey) }, pageFiles, out };
      return runInWorker<RenderedFile>('render', whole, signal, report);
    });
    signal.throwIfAborted();
    keepTail(tailKey, made.tailFrames);
    const remark = [made.remark, made.clippedSamples > 0 ? clippingRemark(made.clippedSamples) : '']
      .filter(Boolean)
      .join(' ');
    const final = finishedPath(id, task.file.name);
    await settle(out, final);
    await keepFinished({
      id,
      songId,
      revision: task.revision,
      fileName: task.file.name,
      format: task.settings.file,
      about: {
        kind: 'sound',
        bytes: (await stat(final)).size,
        seconds: made.frames / song.rateHz,
        integratedLufs: made.integratedLufs,
        truePeakDbtp: made.truePeakDbtp,
        ...(remark && { remark }),
      },
    });
    return { resultId: id, ...(remark && { remark }) };
  } finally {
    await discard(out, `${out}.float`);
  }
}
setRunner('render', renderFile);
