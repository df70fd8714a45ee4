import type { Edit, Song } from '@/core/song';
import { useJobs, type JobView } from './jobs-store';
import { request } from './api';
import { confirmEdit, rebase, forgetPending } from './song-state';
import { useSongStore } from './song-store';

/**
 * Keeps this window and the server at the same song: sends edits in order, hears of others' edits and of long work. While the
 * server cannot be reached, edits wait here and are tried again; nothing is sent twice, since every edit has an id.
 */
type Outcome = { id: string; revision: number } | { id: string; error: { message: string; kept?: string } };
type SongEvent = { type: 'edit'; revision: number; editId: string; edit: Edit } | { type: 'job'; job: JobView };

const RETRY_MS = 1500;
const MOST_AT_ONCE = 100;

/** @returns what ends it */
export function startSync(songId: string, clientId: string): () => void {
  let isOver = false;
  let isSending = false;
  let events: EventSource | null = null;
  const store = useSongStore;

  const confirm = (id: string, revision: number, edit: Edit) => {
    const { state, gap } = confirmEdit(store.getState().state, { id, revision, edit });
    store.getState().setState(() => state);
    if (gap) void reload();
  };

  async function reload(): Promise<void> {
    try {
      const { song, revision } = await request<{ song: Song; revision: number }>('GET', `/api/songs/${songId}`);
      store.getState().setState((state) => rebase(state, song, revision));
    } catch {
      // The stream of events reconnects by itself and brings what is missing.
    }
  }

  async function send(): Promise<void> {
    if (isSending || isOver) return;
    isSending = true;
    try {
      for (;;) {
        const sent = store.getState().state.pending.slice(0, MOST_AT_ONCE);
        if (sent.length === 0 || isOver) break;
        if (store.getState().saved === 'saved') store.getState().setSaved('saving');
        const { outcomes } = await request<{ outcomes: Outcome[] }>('POST', `/api/songs/${songId}/edits`, {
          clientId,
          edits: sent,
        });
        for (const outcome of outcomes) {
          const edit = sent.find((one) => one.id === outcome.id)?.edit;
          if ('error' in outcome) {
            store.getState().setState((state) => forgetPending(state, outcome.id));
            store
              .getState()
              .tell(`A change could not be kept: ${outcome.error.message} ${outcome.error.kept ?? ''}`, 'error');
          } else if (edit) confirm(outcome.id, outcome.revision, edit);
        }
        // An edit whose turn has not come (another window's came first) stays pending until the events bring it.
        const known = new Set(outcomes.map((outcome) => outcome.id));
        if (store.getState().state.pending.every((one) => known.has(one.id))) break;
      }
      store.getState().setSaved('saved');
    } catch {
      store.getState().setSaved('unreachable');
      setTimeout(() => void send(), RETRY_MS);
    } finally {
      isSending = false;
    }
  }

  function listen(): void {
    events?.close();
    events = new EventSource(`/api/songs/${songId}/events?since=${store.getState().state.revision}`);
    events.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as SongEvent;
      if (event.type === 'job') useJobs.getState().put(event.job);
      else confirm(event.editId, event.revision, event.edit);
    };
    events.onerror = () => {
      events?.close();
      if (!isOver) setTimeout(() => !isOver && listen(), RETRY_MS);
    };
  }

  listen();
  const unsubscribe = store.subscribe((now, before) => {
    if (now.state.pending !== before.state.pending && now.state.pending.length > before.state.pending.length)
      void send();
  });
  const warn = (event: BeforeUnloadEvent) => {
    if (store.getState().state.pending.length > 0) event.preventDefault();
  };
  window.addEventListener('beforeunload', warn);
  return () => {
    isOver = true;
    unsubscribe();
    events?.close();
    window.removeEventListener('beforeunload', warn);
  };
}
