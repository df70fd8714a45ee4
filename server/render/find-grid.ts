import { compileSong, renderMix } from '@/core/engine';
import { findGrid, RhythmListener, type FoundGrid } from '@/core/grid';
import { songLengthFrames, type Song } from '@/core/song';
import type { PageFile } from '../audio/page-file';
import { FileSources } from './sources';

export interface GridTask {
  song: Song;
  pageFiles: Record<string, PageFile>;
}

/** No more is listened to, seconds: what is longer has the bars of its first ten minutes. */
const LONGEST_SECONDS = 600;

/** The song with its recordings as they are: chains and passages move no beat. */
const plain = (song: Song): Song => ({
  ...song,
  tracks: song.tracks.map((track) => ({ ...track, chain: [] })),
  buses: song.buses.map((bus) => ({ ...bus, chain: [] })),
  master: { ...song.master, chain: [] },
  passages: [],
});

/** Finds the tempo and the bars of a song from the files of its recordings. */
export function findSongGrid({ song, pageFiles }: GridTask): FoundGrid | null {
  const endFrame = Math.min(songLengthFrames(song), LONGEST_SECONDS * song.rateHz);
  const sources = new FileSources(song, pageFiles);
  const listener = new RhythmListener(song.rateHz);
  try {
    for (const { left, right, frames } of renderMix(compileSong(plain(song)), sources.of, [], {
      startFrame: 0,
      endFrame,
    }))
      listener.push(left, right, frames);
  } finally {
    sources.close();
  }
  return findGrid(listener.rhythm, endFrame / song.rateHz);
}
