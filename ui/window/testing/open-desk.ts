import type { Song } from '@/core/song';
import { Desk } from '../desk/desk';
import { liveSong } from '../song/live-song';
import { openSongState } from '../song/song-state';
import { useSongStore } from '../song/song-store';

/** A desk with a song and nothing else: no server, no sound. */
export function deskWith(song: Song, songId = 'x'): Desk {
  const desk = new Desk(songId);
  useSongStore.api(desk);
  liveSong(desk).accept(openSongState(song, 0));
  return desk;
}
