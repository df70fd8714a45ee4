import type { ErrorCode } from '@/core/errors';
import type { ProofOrder } from '@/core/proof';
import type { FileSettings, PlannedFile } from '@/core/renders';

/** Long work on the server, as the page sees it. */
export interface Job {
  id: string;
  songId: string;
  kind: JobTask['kind'];
  /** The file it is about. */
  name: string;
  /** What the window that sent the file calls the upload: it may have been cancelled there before the job was known. */
  uploadId?: string;
  /** `waiting`: in line, behind others of its kind. */
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  /** What it is busy with, in a word. */
  step: string;
  /** 0 to 1. */
  progress: number;
  /** Of work that stands in line: the lower, the earlier its turn. */
  place?: number;
  /** What was asked for together. */
  orderId?: string;
  /** Of a sound that is made: how long it is, seconds. */
  seconds?: number;
  /** When its step began, ms since 1970. */
  startedAt?: number;
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
  facts: {
    uploadId?: string;
    drop?: { id: string; place: number };
    isAgain?: boolean;
    /** Where in the song a WAV file begins, seconds. */
    atSeconds?: number;
  };
}

/** A file of a render, of a song as it stood when it was asked for. */
export interface RenderTaskOrder {
  kind: 'render';
  revision: number;
  file: PlannedFile;
  settings: FileSettings;
}

/** A song as one file. */
export interface BundleTask {
  kind: 'bundle';
  revision: number;
}

/** The page for the client. */
export interface ProofTaskOrder {
  kind: 'proof';
  revision: number;
  order: ProofOrder;
}

/** A new song of a song that was packed. */
export interface UnpackingTask {
  kind: 'unpack';
  /** Name of the file in the folder of what comes in. */
  upload: string;
  fileName: string;
}

/** Everything that it takes to do a job, or to take it up again after a crash. */
export type JobTask = ImportTask | RenderTaskOrder | BundleTask | ProofTaskOrder | UnpackingTask;
