import type { ErrorCode } from '@/core/errors';
import { deskStore } from '../desk/desk';

/** Long work as the page shows it: uploads of this window and jobs of the server. */
export interface JobView {
  id: string;
  kind: 'import' | 'render' | 'bundle' | 'unpack' | 'proof';
  name: string;
  /** True for a file that is still being sent: the server does not know of it as a job. */
  isUpload?: boolean;
  /** What the window that sent the file calls the upload. */
  uploadId?: string;
  /** `waiting`: in line, behind others. */
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  step: string;
  /** 0 to 1 */
  progress: number;
  /** Of work that stands in line: the lower, the earlier its turn. */
  place?: number;
  /** What was asked for together. */
  orderId?: string;
  /** Of a sound that is made: how long it is, seconds. */
  seconds?: number;
  /** When its step began, ms since 1970. */
  startedAt?: number;
  error?: { code?: ErrorCode; message: string; kept?: string };
  resultId?: string;
  /** Something to know about what it made. */
  remark?: string;
}

interface JobsStore {
  jobs: Readonly<Record<string, JobView>>;
  put: (job: JobView) => void;
  remove: (id: string) => void;
}

export const useJobs = deskStore<JobsStore>(() => (set, get) => ({
  jobs: {},
  put: (job) => set({ jobs: { ...get().jobs, [job.id]: job } }),
  remove: (id) => set({ jobs: Object.fromEntries(Object.entries(get().jobs).filter(([key]) => key !== id)) }),
}));
