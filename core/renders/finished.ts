/** What is told of a finished file. */
export interface AboutFile {
  kind: 'sound' | 'bundle' | 'proof';
  bytes: number;
  /** Of a sound. */
  seconds?: number;
  integratedLufs?: number | null;
  truePeakDbtp?: number;
  /** Something to know about it. */
  remark?: string;
}

/** A file that was made of a song to hand on. */
export interface FinishedFile {
  id: string;
  fileName: string;
  format: string;
  /** The song's revision that it was made of. */
  revision: number;
  createdAt: string;
  /** Null for those of older versions. */
  about: AboutFile | null;
}
