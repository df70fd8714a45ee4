import { commonRate, NO_NOTES, readFileNotes, startsOf, type RecordingNotes } from '@/core/formats';
import { isOfStorage } from '@/core/errors';
import { newId, rememberElsewhere } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { askBeforeLeaving } from '../../window/server/leave';
import { errorOf, request } from '../../window/server/request';
import { liveSong } from '../../window/song/live-song';
import { offerParts } from '../passages/offered-parts';
import { useRateQuestion } from './rate-question';

const AT_ONCE = 2;

/** A file on its way, and where it stands among those that were dropped with it. */
interface Upload {
  id: string;
  file: File;
  dropId: string;
  place: number;
  /** True where it was asked for although a track plays it already. */
  isAgain: boolean;
  /** Where in the song it begins, seconds. */
  atSeconds: number;
}

/** What a WAV, AIFF or FLAC file says of itself; what cannot be read here the import says. */
function notesOf(file: File): Promise<RecordingNotes> {
  if (!/\.(wav|wave|rf64|bwf|aif|aiff|aifc|flac)$/i.test(file.name)) return Promise.resolve(NO_NOTES);
  const readAt = async (from: number, length: number) =>
    new Uint8Array(await file.slice(from, from + length).arrayBuffer());
  return readFileNotes(readAt, file.size).catch(() => NO_NOTES);
}

const isZip = (name: string) => /\.zip$/i.test(name);
const byName = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** The uploads of a desk. What the server makes of them it tells as jobs. */
class Uploads {
  private readonly waiting: Upload[] = [];
  private readonly running = new Map<string, XMLHttpRequest>();
  /** Uploads that the server may have a job of, by id. */
  private readonly sent = new Map<string, Upload>();
  private readonly cancelled = new Set<string>();
  /** Set while files wait or are on their way. */
  private letLeave: (() => void) | null = null;

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

  /**
   * Files that become tracks in the order of their names, in one step of undo. The first ones of a song in which
   * nothing has been done yet are asked about where they have another rate.
   */
  async add(chosen: Iterable<File>): Promise<void> {
    const given = [...chosen].sort((a, b) => byName.compare(a.name, b.name));
    const files = given.filter(({ name }) => !isZip(name));
    for (const { name } of given.filter((file) => isZip(file.name)))
      tell(
        this.desk,
        `“${name}” is no recording. A packed song is opened on the list of songs: drop it there.`,
        'error',
      );
    const question = useRateQuestion.of(this.desk);
    if (question.asked) {
      question.ask({ ...question.asked, files: [...question.asked.files, ...files] });
      return;
    }
    const notes = await Promise.all(files.map(notesOf));
    const { settled, revision, pending } = liveSong(this.desk).state;
    const rateHz = commonRate(notes.map((note) => note.rateHz));
    // Another song is put in its place: only where nothing has been done in it.
    const isBusy = Object.values(this.jobs.jobs).some(({ state }) => state === 'running');
    const isUntouched = revision === 0 && pending.length === 0 && !isBusy;
    if (isUntouched && rateHz !== null && rateHz !== settled.rateHz) question.ask({ files, rateHz });
    else this.takeIn(files, notes);
  }

  /** The same for files that were asked about: converted where they have another rate. */
  async convert(files: readonly File[]): Promise<void> {
    this.takeIn(files, await Promise.all(files.map(notesOf)));
  }

  private takeIn(files: readonly File[], notes: readonly RecordingNotes[]): void {
    const dropId = newId(10);
    const starts = startsOf(notes.map(({ timeReferenceSeconds }) => timeReferenceSeconds));
    files.forEach((file, place) =>
      this.wait({ id: `upload-${newId(8)}`, file, dropId, place, isAgain: false, atSeconds: starts[place] }),
    );
    this.startNext();
    files.forEach((file, i) => offerParts(this.desk, file, notes[i].markers));
    const placed = starts.filter((seconds) => seconds > 0).length;
    if (placed > 0)
      tell(
        this.desk,
        `${placed === 1 ? 'One file begins' : `${placed} files begin`} where ${placed === 1 ? 'it was' : 'they were'} recorded, later than the first, as the files say.`,
      );
  }

  /** Takes a file in although a track of the song plays it already. */
  addAgain(job: JobView): void {
    this.sendAgain(job, { isAgain: true });
  }

  /** True for a file that did not come in, was not at fault for it, and is still at hand in this window. */
  canRetry({ id, uploadId, state, error }: JobView): boolean {
    const { code = 'cancelled' } = error ?? {};
    return state === 'failed' && (code === 'cancelled' || isOfStorage({ code })) && this.sent.has(uploadId ?? id);
  }

  /** Sends a file anew that did not come in. */
  retry(job: JobView): void {
    this.sendAgain(job, {});
  }

  private sendAgain(job: JobView, changes: Partial<Upload>): void {
    const upload = this.sent.get(job.uploadId ?? job.id);
    this.jobs.remove(job.id);
    if (!upload) return;
    this.sent.delete(upload.id);
    this.wait({ ...upload, ...changes, id: `upload-${newId(8)}` });
    this.startNext();
  }

  /** Ends an upload or a job of the server. */
  cancel(id: string): void {
    const at = this.waiting.findIndex((upload) => upload.id === id);
    if (at >= 0) this.waiting.splice(at, 1);
    this.running.get(id)?.abort();
    this.keepWindow();
    if (id.startsWith('upload-')) {
      this.cancelled.add(id);
      this.jobs.remove(id);
    } else void request('DELETE', `/api/jobs/${id}`).catch(() => undefined);
  }

  private wait(upload: Upload): void {
    this.waiting.push(upload);
    this.put(upload, { step: 'waiting' });
    this.keepWindow();
  }

  /** Files that have not arrived are lost with the window. */
  private keepWindow(): void {
    if (this.waiting.length + this.running.size > 0) this.letLeave ??= askBeforeLeaving();
    else {
      this.letLeave?.();
      this.letLeave = null;
    }
  }

  private startNext(): void {
    while (this.running.size < AT_ONCE && this.waiting.length > 0) this.send(this.waiting.shift()!);
  }

  private send(upload: Upload): void {
    const { id, file, dropId, place, isAgain, atSeconds } = upload;
    this.sent.set(id, upload);
    const call = new XMLHttpRequest();
    this.running.set(id, call);
    const about = new URLSearchParams({ name: file.name, upload: id, drop: dropId, place: String(place) });
    if (isAgain) about.set('again', '1');
    if (atSeconds > 0) about.set('at', String(atSeconds));
    call.open('POST', `/api/songs/${this.desk.songId}/imports?${about.toString()}`);
    call.setRequestHeader('content-type', 'application/octet-stream');
    call.upload.onprogress = ({ loaded, total }) => this.put(upload, { progress: total > 0 ? loaded / total : 0 });
    const fail = (error: JobView['error']) => this.put(upload, { state: 'failed', error });
    call.onload = () => {
      const answer = readAnswer(call.responseText);
      if (call.status === 200 && answer.job) {
        this.jobs.remove(id);
        // The events may have told more of it by now.
        if (!this.jobs.jobs[answer.job.id]) this.jobs.put(answer.job);
      } else {
        fail(errorOf(answer, call.status).toJSON());
      }
    };
    call.onerror = () =>
      fail({
        message: `“${file.name}” could not be sent: the server cannot be reached.`,
        kept: 'The song is as it was.',
      });
    call.onloadend = () => {
      this.running.delete(id);
      this.startNext();
      this.keepWindow();
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

  /** The tracks that a file has become can be taken back, with all that came in with it. */
  private remember(dropId: string, firstId: string): void {
    const live = liveSong(this.desk);
    let { history } = live.state;
    live.state.settled.tracks.forEach((track, index) => {
      // Of a file with many channels the others are named after the first.
      if (track.id !== firstId && !track.id.startsWith(`${firstId}-`)) return;
      history = rememberElsewhere(
        history,
        { kind: 'track.add', track, index },
        { kind: 'track.remove', trackId: track.id },
        'Add recordings',
        `drop/${dropId}`,
      );
    });
    live.accept({ ...live.state, history });
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
