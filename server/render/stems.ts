import { partOf } from '@/core/mix';
import type { Song } from '@/core/song';

/** One part of a mix as a song of its own: rendered, it is the stem. */
export interface Stem {
  name: string;
  song: Song;
}

/**
 * Each track and each bus by itself: with its own chain, fader and position, before the bus or master that it runs into. Tracks
 * that are muted in the song are silent in their bus and have no stem.
 */
export function stemsOf(song: Song): Stem[] {
  return [...song.tracks, ...song.buses]
    .filter((strip) => !strip.muted)
    .map((strip) => ({ name: strip.name, song: partOf(song, strip.id) }));
}
