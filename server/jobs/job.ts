import type { ErrorCode } from '@/core/errors';
import type { RenderFormat } from '@/core/formats';
import type { Song } from '@/core/song';

/** Long work on the server, as the page sees it. */
export interface Job {
  id: string;
  songId: string;
  kind: 'import' | 'render';
  /** The file it is about. */
  name: string;
  /** What the window that sent the file calls the upload: it may have been cancelled there before the job was known. */
  uploadId?: string;
  state: 'running' | 'done' | 'failed' | 'cancelled';
  /** What it is busy with, in a word. */
  step: string;
  /** 0 to 1. */
  progress: number;
  error?: { code: ErrorCode; message: string; kept?: string };
  /** What it made: a track's id, a render's id. */
  resultId?: string;
  /** Something to know about what it made. */
  remark?: string;
}

/** What a job has made. */
export type JobResult = Pick<Job, 'remark'> & Required<Pick<Job, 'resultId'>>;

/** The import of an uploaded file: the file, and what the window said of it. */
export interface ImportTask {
  kind: 'import';
  /** Name of the file in the folder of what comes in. */
  upload: string;
  fileName: string;
  facts: { uploadId?: string; drop?: { id: string; place: number }; isAgain?: boolean };
}

/** A render of a song as it stood when it was asked for. */
export interface RenderOrder {
  kind: 'render';
  song: Song;
  revision: number;
  format: RenderFormat;
}

/** Everything that it takes to do a job, or to take it up again after a crash. */
export type JobTask = ImportTask | RenderOrder;
