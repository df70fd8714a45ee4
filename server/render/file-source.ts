import { closeSync, openSync, readSync } from 'node:fs';
import { PAGE_FRAMES, PagedSource } from '@/core/engine';
import { checkPage, pageExtent, unopenable, type PageFile } from '../audio/page-file';

/** Pages that a track keeps in memory while a file is rendered: the one in use and the one before. */
const PAGES_KEPT = 2;

/** A recording of the store, read from its file as the render goes on. A page that is damaged ends the render. */
export class FileSource {
  readonly channels: 1 | 2;
  private readonly paged: PagedSource;
  private readonly file: number;
  private readonly loaded: number[] = [];

  constructor(
    private readonly pages: PageFile,
    channels: 1 | 2,
    private readonly lengthFrames: number,
  ) {
    this.channels = channels;
    this.paged = new PagedSource(channels, lengthFrames);
    try {
      this.file = openSync(pages.path, 'r');
    } catch (thrown) {
      throw unopenable(pages, thrown);
    }
  }

  read(frame: number, count: number, left: Float64Array, right: Float64Array): void {
    const first = Math.max(0, Math.floor(frame / PAGE_FRAMES));
    const last = Math.min(this.paged.pageCount - 1, Math.floor((frame + count - 1) / PAGE_FRAMES));
    for (let page = first; page <= last; page++) if (!this.paged.hasPage(page)) this.load(page);
    this.paged.read(frame, count, left, right);
  }

  private load(page: number): void {
    const { bytes, offset } = pageExtent(page, this.channels, this.lengthFrames);
    const samples = new Float32Array(bytes / 4);
    const read = readSync(this.file, samples, 0, bytes, offset);
    checkPage(this.pages, page, new Uint8Array(samples.buffer), read);
    this.paged.setPage(page, samples);
    this.loaded.push(page);
    if (this.loaded.length > PAGES_KEPT) this.paged.dropPage(this.loaded.shift()!);
  }

  close(): void {
    closeSync(this.file);
  }
}
