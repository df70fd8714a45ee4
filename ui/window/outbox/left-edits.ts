import { upgradeEdit } from '@/core/song';
import type { BrowserStorage } from '../../kit/storage/browser-storage';
import type { PendingEdit } from '../song/song-state';

/** What the browser keeps of edits until they are acknowledged: an entry for each song and window. */
const PREFIX = 'orvid-outbox/';
const prefixOf = (songId: string) => `${PREFIX}${songId}/`;

/** The entry of one window. */
export class LeftEdits {
  private readonly key: string;

  constructor(
    songId: string,
    windowId: string,
    private readonly storage: BrowserStorage,
  ) {
    this.key = prefixOf(songId) + windowId;
  }

  /** @returns false where the browser has no room for it or keeps nothing */
  write(edits: readonly PendingEdit[]): boolean {
    try {
      if (edits.length === 0) this.storage.removeItem(this.key);
      else this.storage.setItem(this.key, JSON.stringify(edits));
      return true;
    } catch {
      return edits.length === 0;
    }
  }
}

const keysOf = (storage: BrowserStorage) => Array.from({ length: storage.length }, (_, i) => storage.key(i) ?? '');

/** What other windows of a song have left, or have on their way still: taken over by who asks. */
export function takeLeftEdits(songId: string, storage: BrowserStorage): PendingEdit[] {
  const edits = new Map<string, PendingEdit>();
  for (const key of keysOf(storage)
    .filter((key) => key.startsWith(prefixOf(songId)))
    .sort()) {
    for (const edit of read(storage.getItem(key))) edits.set(edit.id, edit);
    storage.removeItem(key);
  }
  return [...edits.values()];
}

/** The songs of which edits wait in the browser. */
export function songsWithLeftEdits(storage: BrowserStorage): string[] {
  const keys = keysOf(storage).filter((key) => key.startsWith(PREFIX));
  return [...new Set(keys.map((key) => key.slice(PREFIX.length, key.lastIndexOf('/'))))];
}

function read(text: string | null): PendingEdit[] {
  try {
    const edits = JSON.parse(text ?? '[]') as PendingEdit[];
    return edits
      .filter(({ id, edit }) => typeof id === 'string' && typeof edit === 'object')
      .map((pending) => ({ ...pending, edit: upgradeEdit(pending.edit) }));
  } catch {
    return [];
  }
}
