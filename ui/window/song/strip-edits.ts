import { batch, findStrip, type Edit, type Strip } from '@/core/song';
import type { Desk } from '../desk/desk';
import { songOf } from './live-song';
import { togetherWith } from './selection';
import { useSongStore } from './song-store';

type Changes = Extract<Edit, { kind: 'strip.set' }>['changes'];

/** The tracks and groups that a change means: one by its id, with all that are chosen together with it, or these. */
type Meant = string | readonly string[];

const idsOf = (desk: Desk, meant: Meant) => (typeof meant === 'string' ? togetherWith(desk, meant) : meant);

function setAll(desk: Desk, meant: Meant, changesOf: (strip: Strip) => Changes): Edit | null {
  const song = songOf(desk);
  return batch(
    idsOf(desk, meant).flatMap((id): Edit[] => {
      const strip = findStrip(song, id);
      if (!strip) return [];
      // The master has only some of the fields.
      const changes = Object.fromEntries(Object.entries(changesOf(strip)).filter(([key]) => key in strip));
      return Object.keys(changes).length > 0 ? [{ kind: 'strip.set', stripId: id, changes }] : [];
    }),
  );
}

/** Sets fields of strips. */
export function setStrips(desk: Desk, meant: Meant, changes: Changes, label: string): void {
  useSongStore.of(desk).edit(
    setAll(desk, meant, () => changes),
    label,
  );
}

/** Steps a field of strips by a key, each from where it stands. */
export function stepStrips(desk: Desk, meant: Meant, changesOf: (strip: Strip) => Changes, label: string): void {
  useSongStore.of(desk).editByKey(setAll(desk, meant, changesOf), label, `${idsOf(desk, meant).join()}/${label}`);
}
