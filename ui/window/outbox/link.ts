import { OrvidError } from '@/core/errors';
import { newId, type Edit, type Song } from '@/core/song';
import { browserStorage } from '../../kit/storage/browser-storage';
import { deskStore, type Desk } from '../desk/desk';
import { tell, tellError } from '../notices/notices';
import { useJobs, type JobView } from '../server/jobs-store';
import { request } from '../server/request';
import { liveSong } from '../song/live-song';
import { confirmEdit, forgetPending, rebase, type PendingEdit } from '../song/song-state';
import { LeftEdits, songsWithLeftEdits, takeLeftEdits } from './left-edits';
import { Outbox, type Absence, type Outcome, type SavedState } from './outbox';

/** Whether the work is safe; `why`: what a server that is unable to save said. */
export const useSaved = deskStore<{ saved: SavedState; why: string }>(() => () => ({ saved: 'saved', why: '' }));

type SongEvent = { type: 'edit'; revision: number; editId: string; edit: Edit } | { type: 'job'; job: JobView };

const FIRST_WAIT_MS = 300;
const LONGEST_WAIT_MS = 15_000;

const poster = (songId: string, clientId: string) => async (edits: readonly PendingEdit[]) =>
  (await request<{ outcomes: Outcome[] }>('POST', `/api/songs/${songId}/edits`, { clientId, edits })).outcomes;

/** Sends what earlier windows have left of songs that are not open here. */
export function sendLeftEdits(): void {
  const storage = browserStorage();
  for (const songId of songsWithLeftEdits(storage)) {
    const left = takeLeftEdits(songId, storage);
    const windowId = newId(10);
    new Outbox(poster(songId, windowId), new LeftEdits(songId, windowId, storage)).set(left);
  }
}

const ABSENT: Record<Absence, string> = {
  unreachable: 'The server cannot be reached.',
  full: 'The disk of the server is full.',
  unable: 'The server cannot save.',
  deleted: 'This song was deleted.',
};

/** Waits until the server has all that was done here. @throws OrvidError when it cannot be reached, or the song was deleted */
export function whenSaved(desk: Desk): Promise<void> {
  return new Promise((resolve, reject) => {
    const look = ({ saved, why }: { saved: SavedState; why: string }) => {
      if (saved === 'saving') return false;
      if (saved === 'saved') resolve();
      else
        reject(
          new OrvidError(
            'internal',
            [ABSENT[saved], why].filter(Boolean).join(' '),
            'What was done here is kept, and saved when that is over.',
          ),
        );
      return true;
    };
    if (look(useSaved.of(desk))) return;
    const stop = useSaved.api(desk).subscribe((state) => {
      if (look(state)) stop();
    });
  });
}

/** Those who have something to ask for again when the server is back. */
const makeReturns = () => new Set<() => void>();
const returnsOf = (desk: Desk) => desk.part(makeReturns);

/** Calls back when the server is there again after it could not be reached. @returns ends it */
export function onServerBack(desk: Desk, again: () => void): () => void {
  const returns = returnsOf(desk);
  returns.add(again);
  return () => void returns.delete(again);
}

/** Jobs as the server knows them: some may have ended while nothing was heard of them, or be gone with the server that ran them. */
async function compareJobs(desk: Desk): Promise<void> {
  const goOn = Object.values(useJobs.of(desk).jobs).filter(
    ({ state, isUpload }) => (state === 'running' || state === 'waiting') && !isUpload,
  );
  if (goOn.length === 0) return;
  const { jobs } = await request<{ jobs: JobView[] }>('GET', `/api/songs/${desk.songId}/jobs`);
  const store = useJobs.of(desk);
  for (const job of goOn) {
    // What was heard meanwhile is newer.
    if (store.jobs[job.id] !== job) continue;
    const known = jobs.find(({ id }) => id === job.id);
    if (known) store.put(known);
    else
      store.put({
        ...job,
        state: 'failed',
        error: {
          message: `“${job.name}” was not finished: the server was started anew.`,
          kept: job.kind === 'import' ? 'The song is as it was. Add the file again.' : 'Start the render again.',
        },
      });
  }
}

/**
 * Keeps this window and the server at the same song: hands its edits to the outbox, hears of others' edits and of long work, and notices
 * when the server is gone and when it is back.
 */
export function openLink(desk: Desk): void {
  const { songId } = desk;
  const live = liveSong(desk);
  const clientId = newId(10);
  const outbox = new Outbox(poster(songId, clientId), new LeftEdits(songId, clientId, browserStorage()));
  let events: EventSource | null = null;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let failures = 0;
  let isOver = false;

  const confirm = (id: string, revision: number, edit: Edit) => {
    const { state, gap } = confirmEdit(live.state, { id, revision, edit });
    live.accept(state);
    if (gap) void reload();
  };

  async function reload(): Promise<void> {
    try {
      const { song, revision } = await request<{ song: Song; revision: number }>('GET', `/api/songs/${songId}`);
      live.accept(rebase(live.state, song, revision));
    } catch {
      // The stream of events reconnects by itself and brings what is missing.
    }
  }

  /** Why nothing is heard of the song. */
  async function tellAbsence(): Promise<void> {
    try {
      await request('GET', `/api/songs/${songId}`);
    } catch (error) {
      if (failures > 1) outbox.sleep(error);
    }
  }

  outbox.listen({
    onAccepted: ({ id, edit }, revision) => confirm(id, revision, edit),
    onRefused: ({ id }, { message, kept }) => {
      live.accept(forgetPending(live.state, id));
      tellError(desk, { message: `A change could not be kept. ${message}`, kept });
    },
    onState: (saved, why) => useSaved.api(desk).setState({ saved, why }),
  });

  function listen(): void {
    events = new EventSource(`/api/songs/${songId}/events?since=${live.state.revision}`);
    events.onopen = () => {
      const wasGone = failures > 1;
      failures = 0;
      outbox.wake();
      // Also at first: what the page came with may have ended before anybody listened.
      compareJobs(desk).catch(() => undefined);
      if (wasGone) for (const again of returnsOf(desk)) again();
    };
    events.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as SongEvent;
      if (event.type === 'job') useJobs.of(desk).put(event.job);
      else confirm(event.editId, event.revision, event.edit);
    };
    events.onerror = () => {
      events?.close();
      if (isOver) return;
      // One break may be a connection that was closed in passing; a second one in a row is an absence.
      if (++failures > 1) void tellAbsence();
      timer = setTimeout(listen, Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (failures - 1)));
    };
  }

  listen();
  outbox.set(live.state.pending);
  live.read(({ pending }) => outbox.set(pending));
  let hasWarned = false;
  const warn = (event: BeforeUnloadEvent) => {
    if (outbox.isEmpty || outbox.isSafe) return;
    event.preventDefault();
    if (!hasWarned) tell(desk, 'The browser has no room to keep the last changes: stay until they are saved.', 'error');
    hasWarned = true;
  };
  window.addEventListener('beforeunload', warn);
  desk.onEnd(() => {
    isOver = true;
    // What is in the outbox goes on its way all the same.
    outbox.listen(null);
    events?.close();
    clearTimeout(timer);
    window.removeEventListener('beforeunload', warn);
  });
}
