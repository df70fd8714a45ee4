import { batch, findStrip, type Edit, type Strip } from '@/core/song';
import { togetherWith } from './selection';
import { currentSong, useSongStore } from './song-store';

type Changes = Extract<Edit, { kind: 'strip.set' }>['changes'];

function setAll(stripId: string, changesOf: (strip: Strip) => Changes): Edit | null {
  const song = currentSong();
  return batch(
    togetherWith(stripId).flatMap((id): Edit[] => {
      const strip = findStrip(song, id);
      if (!strip) return [];
      // The master has only some of the fields.
      const changes = Object.fromEntries(Object.entries(changesOf(strip)).filter(([key]) => key in strip));
      return Object.keys(changes).length > 0 ? [{ kind: 'strip.set', stripId: id, changes }] : [];
    }),
  );
}

/** Sets fields of a strip, and of all that are chosen together with it. */
export function setStrips(stripId: string, changes: Changes, label: string): void {
  useSongStore.getState().edit(
    setAll(stripId, () => changes),
    label,
  );
}

/** Steps a field of a strip by a key, and of all that are chosen together with it, each from where it stands. */
export function stepStrips(stripId: string, changesOf: (strip: Strip) => Changes, label: string): void {
  useSongStore.getState().editByKey(setAll(stripId, changesOf), label, `${stripId}/${label}`);
}
