import type { CompiledTrack } from '@/core/engine';
import type { Song } from '@/core/song';
import type { PageFile } from '../audio/page-file';
import { FileSource } from './file-source';

/** The recordings of a song, opened as they are needed. */
export class FileSources {
  private readonly sources = new Map<string, FileSource>();

  private readonly lengths: Readonly<Record<string, number>>;

  /**
   * @param pageFiles of recordings, by their ids
   * @param endFrame of the song: recordings fade out soon after it, and what they have left behind rings on
   */
  constructor(
    { tracks }: Pick<Song, 'tracks'>,
    private readonly pageFiles: Readonly<Record<string, PageFile>>,
    private readonly endFrame = Infinity,
  ) {
    this.lengths = Object.fromEntries(tracks.map((track) => [track.id, track.lengthFrames]));
  }

  readonly of = (track: CompiledTrack): FileSource | undefined => {
    const file = this.pageFiles[track.audioId];
    if (!file) return undefined;
    const end = this.endFrame - Math.floor(track.delayFrames);
    const source = this.sources.get(track.id) ?? new FileSource(file, track.channels, this.lengths[track.id], end);
    this.sources.set(track.id, source);
    return source;
  };

  close(): void {
    this.sources.forEach((source) => source.close());
  }
}
