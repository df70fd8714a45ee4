import { newId, rememberElsewhere } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { errorOf, request } from '../../window/server/request';
import { liveSong } from '../../window/song/live-song';
import { offerParts } from '../passages/offered-parts';

const AT_ONCE = 2;

/** A file on its way, and where it stands among those that were dropped with it. */
interface Upload {
  id: string;
  file: File;
  dropId: string;
  place: number;
  /** True where it was asked for although a track plays it already. */
  isAgain: boolean;
}

const byName = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** The uploads of a desk. What the server makes of them it tells as jobs. */
class Uploads {
  private readonly waiting: Upload[] = [];
  private readonly running = new Map<string, XMLHttpRequest>();
  /** Uploads that the server may have a job of, by id. */
  private readonly sent = new Map<string, Upload>();
  private readonly cancelled = new Set<string>();

  /** Opens the file dialog; set by what holds it. */
  choose: () => void = () => undefined;

  constructor(private readonly desk: Desk) {
    desk.onEnd(
      useJobs.api(desk).subscribe(({ jobs }, before) => {
        for (const job of Object.values(jobs)) if (job !== before.jobs[job.id]) this.hear(job);
      }),
    );
  }

  private get jobs() {
    return useJobs.of(this.desk);
  }

  private put(upload: Upload, job: Partial<JobView>): void {
    const { id, file } = upload;
    this.jobs.put({
      id,
      name: file.name,
      kind: 'import',
      state: 'running',
      step: 'uploading',
      progress: 0,
      isUpload: true,
      ...job,
    });
  }

  /** Files that become tracks in the order of their names, in one step of undo. */
  add(chosen: Iterable<File>): void {
    const dropId = newId(10);
    const files = [...chosen];
    [...files]
      .sort((a, b) => byName.compare(a.name, b.name))
      .forEach((file, place) => this.wait({ id: `upload-${newId(8)}`, file, dropId, place, isAgain: false }));
    this.startNext();
    for (const file of files) void offerParts(this.desk, file);
  }

  /** Takes a file in although a track of the song plays it already. */
  addAgain(job: JobView): void {
    const upload = this.sent.get(job.uploadId ?? '');
    this.jobs.remove(job.id);
    if (!upload) return;
    this.wait({ ...upload, id: `upload-${newId(8)}`, isAgain: true });
    this.startNext();
  }

  /** Ends an upload or a job of the server. */
  cancel(id: string): void {
    const at = this.waiting.findIndex((upload) => upload.id === id);
    if (at >= 0) this.waiting.splice(at, 1);
    this.running.get(id)?.abort();
    if (id.startsWith('upload-')) {
      this.cancelled.add(id);
      this.jobs.remove(id);
    } else void request('DELETE', `/api/jobs/${id}`).catch(() => undefined);
  }

  private wait(upload: Upload): void {
    this.waiting.push(upload);
    this.put(upload, { step: 'waiting' });
  }

  private startNext(): void {
    while (this.running.size < AT_ONCE && this.waiting.length > 0) this.send(this.waiting.shift()!);
  }

  private send(upload: Upload): void {
    const { id, file, dropId, place, isAgain } = upload;
    this.sent.set(id, upload);
    const call = new XMLHttpRequest();
    this.running.set(id, call);
    const about = new URLSearchParams({ name: file.name, upload: id, drop: dropId, place: String(place) });
    if (isAgain) about.set('again', '1');
    call.open('POST', `/api/songs/${this.desk.songId}/imports?${about.toString()}`);
    call.setRequestHeader('content-type', 'application/octet-stream');
    call.upload.onprogress = ({ loaded, total }) => this.put(upload, { progress: total > 0 ? loaded / total : 0 });
    const fail = (message: string, kept?: string) => this.put(upload, { state: 'failed', error: { message, kept } });
    call.onload = () => {
      const answer = readAnswer(call.responseText);
      if (call.status === 200 && answer.job) {
        this.jobs.remove(id);
        // The events may have told more of it by now.
        if (!this.jobs.jobs[answer.job.id]) this.jobs.put(answer.job);
      } else {
        const error = errorOf(answer, call.status);
        fail(error.message, error.kept);
      }
    };
    call.onerror = () =>
      fail(
        `“${file.name}” could not be sent: the server cannot be reached.`,
        'The song is as it was. Drop the file again.',
      );
    call.onloadend = () => {
      this.running.delete(id);
      this.startNext();
    };
    call.send(file);
  }

  private hear(job: JobView): void {
    const { uploadId } = job;
    if (!uploadId) return;
    // The server may have begun to read a file that was cancelled here: its job is ended as soon as it is heard of.
    if (this.cancelled.delete(uploadId)) this.cancel(job.id);
    const upload = this.sent.get(uploadId);
    if (job.state !== 'done' || !upload || !job.resultId) return;
    this.sent.delete(uploadId);
    this.remember(upload.dropId, job.resultId);
  }

  /** The track that a file has become can be taken back, with all that came in with it. */
  private remember(dropId: string, trackId: string): void {
    const live = liveSong(this.desk);
    const index = live.state.settled.tracks.findIndex(({ id }) => id === trackId);
    if (index < 0) return;
    const history = rememberElsewhere(
      live.state.history,
      { kind: 'track.add', track: live.state.settled.tracks[index], index },
      { kind: 'track.remove', trackId },
      'Add recordings',
      `drop/${dropId}`,
    );
    live.take({ ...live.state, history });
  }
}

function readAnswer(text: string): { job?: JobView } {
  try {
    return JSON.parse(text || '{}') as { job?: JobView };
  } catch {
    return {};
  }
}

const makeUploads = (desk: Desk) => new Uploads(desk);

export const uploadsOf = (desk: Desk): Uploads => desk.part(makeUploads);
