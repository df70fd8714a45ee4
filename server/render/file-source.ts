import { closeSync, openSync, readSync } from 'node:fs';
import { PAGE_FRAMES, PagedSource } from '@/core/engine';

/** Pages that a track keeps in memory while a file is rendered: the one in use and the one before. */
const PAGES_KEPT = 2;

/** A recording of the store, read from its file as the render goes on. */
export class FileSource {
  readonly channels: 1 | 2;
  private readonly paged: PagedSource;
  private readonly file: number;
  private readonly loaded: number[] = [];

  constructor(
    path: string,
    channels: 1 | 2,
    private readonly lengthFrames: number,
  ) {
    this.channels = channels;
    this.paged = new PagedSource(channels, lengthFrames);
    this.file = openSync(path, 'r');
  }

  read(frame: number, count: number, left: Float64Array, right: Float64Array): void {
    const first = Math.max(0, Math.floor(frame / PAGE_FRAMES));
    const last = Math.min(this.paged.pageCount - 1, Math.floor((frame + count - 1) / PAGE_FRAMES));
    for (let page = first; page <= last; page++) if (!this.paged.hasPage(page)) this.load(page);
    this.paged.read(frame, count, left, right);
  }

  private load(page: number): void {
    const frames = Math.min(PAGE_FRAMES, this.lengthFrames - page * PAGE_FRAMES);
    const samples = new Float32Array(frames * this.channels);
    readSync(this.file, samples, 0, samples.byteLength, page * PAGE_FRAMES * this.channels * 4);
    this.paged.setPage(page, samples);
    this.loaded.push(page);
    if (this.loaded.length > PAGES_KEPT) this.paged.dropPage(this.loaded.shift()!);
  }

  close(): void {
    closeSync(this.file);
  }
}
