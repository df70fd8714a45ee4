import type { CompiledTrack } from '@/core/engine';
import type { PageFile } from '../audio/page-file';
import { FileSource } from './file-source';

/** The recordings of a song, opened as they are needed. */
export class FileSources {
  private readonly sources = new Map<string, FileSource>();

  /** @param pageFiles of recordings, by their ids; @param lengths frames of each track, by its id */
  constructor(
    private readonly pageFiles: Readonly<Record<string, PageFile>>,
    private readonly lengths: Readonly<Record<string, number>>,
  ) {}

  readonly of = (track: CompiledTrack): FileSource | undefined => {
    const file = this.pageFiles[track.audioId];
    if (!file) return undefined;
    const source = this.sources.get(track.id) ?? new FileSource(file, track.channels, this.lengths[track.id]);
    this.sources.set(track.id, source);
    return source;
  };

  close(): void {
    this.sources.forEach((source) => source.close());
  }
}
