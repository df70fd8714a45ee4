import type { Song, Strip } from '@/core/song';

const stripsOf = (song: Song): Strip[] => [...song.tracks, ...song.buses, song.master];

let known: { now: Song; before: Song; ids: ReadonlySet<string> } | null = null;

/** The strips that differ between two songs. Worked out once, though everything that stands for a strip asks it of every change. */
export function changedStrips(now: Song, before: Song): ReadonlySet<string> {
  if (known?.now === now && known.before === before) return known.ids;
  const [strips, stripsBefore] = [stripsOf(now), stripsOf(before)];
  const rest = new Map(stripsBefore.map((strip) => [strip.id, strip]));
  const ids = new Set<string>();
  for (const strip of strips) {
    if (rest.get(strip.id) !== strip) ids.add(strip.id);
    rest.delete(strip.id);
  }
  for (const id of rest.keys()) ids.add(id);
  known = { now, before, ids };
  return ids;
}
