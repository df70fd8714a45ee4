import { EventEmitter } from 'node:events';
import type { Edit } from '@/core/song';
import type { Job } from '../jobs/job';
import { singleton } from '../singleton';

/** What the windows of a song are told. */
export type SongEvent =
  { type: 'edit'; revision: number; editId: string; clientId: string; edit: Edit } | { type: 'job'; job: Job };

const emitter = () => singleton('song-events', () => new EventEmitter().setMaxListeners(0));

export function publish(songId: string, event: SongEvent): void {
  emitter().emit(songId, event);
}

/** @returns a function that ends the subscription */
export function subscribe(songId: string, listener: (event: SongEvent) => void): () => void {
  emitter().on(songId, listener);
  return () => emitter().off(songId, listener);
}
