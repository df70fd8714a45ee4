import { newId } from '@/core/song';
import { errorOf, request, useJobs, useSongStore, type JobView } from '../song';

/** Uploads of this window. What the server makes of them it tells as jobs. */
const AT_ONCE = 2;
const waiting: { id: string; file: File; songId: string }[] = [];
const running = new Map<string, XMLHttpRequest>();

const put = (job: Partial<JobView> & Pick<JobView, 'id' | 'name'>) =>
  useJobs.getState().put({ kind: 'import', state: 'running', step: 'uploading', progress: 0, ...job });

/** Sends recordings to become tracks of the open song, two at a time. */
export function uploadFiles(files: Iterable<File>): void {
  const { songId } = useSongStore.getState();
  for (const file of files) {
    const id = `upload-${newId(8)}`;
    waiting.push({ id, file, songId });
    put({ id, name: file.name, step: 'waiting' });
  }
  startNext();
}

function startNext(): void {
  while (running.size < AT_ONCE && waiting.length > 0) {
    const next = waiting.shift()!;
    send(next.id, next.file, next.songId);
  }
}

function send(id: string, file: File, songId: string): void {
  const upload = new XMLHttpRequest();
  running.set(id, upload);
  upload.open('POST', `/api/songs/${songId}/imports?name=${encodeURIComponent(file.name)}&upload=${id}`);
  upload.setRequestHeader('content-type', 'application/octet-stream');
  upload.upload.onprogress = ({ loaded, total }) =>
    put({ id, name: file.name, progress: total > 0 ? loaded / total : 0 });
  const fail = (message: string, kept?: string) =>
    put({ id, name: file.name, state: 'failed', error: { message, kept } });
  upload.onload = () => {
    const answer = JSON.parse(upload.responseText || '{}') as { job?: JobView };
    if (upload.status === 200 && answer.job) {
      useJobs.getState().remove(id);
      // The events may have told more of it by now.
      if (!useJobs.getState().jobs[answer.job.id]) useJobs.getState().put(answer.job);
    } else {
      const error = errorOf(answer, upload.status);
      fail(error.message, error.kept);
    }
  };
  upload.onerror = () =>
    fail(
      `“${file.name}” could not be sent: the server cannot be reached.`,
      'The song is as it was. Drop the file again.',
    );
  upload.onloadend = () => {
    running.delete(id);
    startNext();
  };
  upload.send(file);
}

/** Ends an upload or a job of the server. */
export function cancelJob(id: string): void {
  const at = waiting.findIndex((one) => one.id === id);
  if (at >= 0) waiting.splice(at, 1);
  running.get(id)?.abort();
  if (id.startsWith('upload-')) {
    cancelled.add(id);
    useJobs.getState().remove(id);
  } else void request('DELETE', `/api/jobs/${id}`).catch(() => undefined);
}

/** Uploads that were cancelled here. The server may have begun to read one by then: its job is ended as soon as it is heard of. */
const cancelled = new Set<string>();
useJobs.subscribe(({ jobs }) => {
  for (const job of Object.values(jobs)) {
    if (!job.uploadId || !cancelled.delete(job.uploadId)) continue;
    cancelJob(job.id);
  }
});

/** Opens the file dialog. */
export function chooseFiles(): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.multiple = true;
  input.accept = '.wav,.wave,.rf64,.flac,.mp3,.ogg,.oga,.opus,audio/*';
  input.onchange = () => uploadFiles(input.files ?? []);
  input.click();
}
