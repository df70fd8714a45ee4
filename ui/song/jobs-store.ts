import { create } from 'zustand';

/** Long work as the page shows it: uploads of this window and jobs of the server. */
export interface JobView {
  id: string;
  kind: 'import' | 'render';
  name: string;
  /** What the window that sent the file calls the upload. */
  uploadId?: string;
  state: 'running' | 'done' | 'failed' | 'cancelled';
  step: string;
  /** 0 to 1 */
  progress: number;
  error?: { message: string; kept?: string };
  resultId?: string;
  /** Something to know about what it made. */
  remark?: string;
}

interface JobsStore {
  jobs: Readonly<Record<string, JobView>>;
  put: (job: JobView) => void;
  remove: (id: string) => void;
}

export const useJobs = create<JobsStore>((set, get) => ({
  jobs: {},
  put: (job) => set({ jobs: { ...get().jobs, [job.id]: job } }),
  remove: (id) => set({ jobs: Object.fromEntries(Object.entries(get().jobs).filter(([key]) => key !== id)) }),
}));
