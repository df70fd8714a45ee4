import { closeSync, openSync, readSync } from 'node:fs';
import { PAGE_FRAMES, PagedSource, unpackSamples } from '@/core/engine';
import { checkPage, nothingRead, pageExtent, unopenable, type PageFile } from '../audio/page-file';

/** Pages that a track keeps in memory while a file is rendered: the one in use and the one before. */
const PAGES_KEPT = 2;
/** A recording that is ended before its time fades out over so many frames. */
const END_FADE_FRAMES = 512;

/** A recording of the store, read from its file as the render goes on. A page that is damaged ends the render. */
export class FileSource {
  readonly channels: 1 | 2;
  private readonly paged: PagedSource;
  private readonly file: number;
  private readonly loaded: { page: number; samples: Float32Array }[] = [];
  /** A page as it lies in the file. */
  private packed = new Uint8Array(0);

  /** @param endFrame it is silent from soon after this frame on */
  constructor(
    private readonly pages: PageFile,
    channels: 1 | 2,
    private readonly lengthFrames: number,
    private readonly endFrame = Infinity,
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
    this.loadFor(frame, count);
    this.paged.read(frame, count, left, right);
    this.end(frame, count, this.channels === 2 ? [left, right] : [left]);
  }

  readFloats(frame: number, count: number, sides: readonly Float32Array[]): void {
    this.loadFor(frame, count);
    this.paged.readFloats(frame, count, sides);
    this.end(frame, count, sides.slice(0, this.channels));
  }

  private end(frame: number, count: number, sides: readonly (Float32Array | Float64Array)[]): void {
    for (let n = Math.max(0, this.endFrame - frame); n < count; n++) {
      const gone = (frame + n - this.endFrame) / END_FADE_FRAMES;
      const gain = gone >= 1 ? 0 : 0.5 + 0.5 * Math.cos(Math.PI * gone);
      for (const side of sides) side[n] *= gain;
    }
  }

  private loadFor(frame: number, count: number): void {
    const first = Math.max(0, Math.floor(frame / PAGE_FRAMES));
    const last = Math.min(this.paged.pageCount - 1, Math.floor((frame + count - 1) / PAGE_FRAMES));
    for (let page = first; page <= last; page++) if (!this.paged.hasPage(page)) this.load(page);
  }

  private load(page: number): void {
    const { frames, bytes, offset } = pageExtent(page, this.channels, this.lengthFrames, this.pages.bits);
    const size = frames * this.channels;
    let room: Float32Array | undefined;
    if (this.loaded.length === PAGES_KEPT) {
      const oldest = this.loaded.shift()!;
      this.paged.dropPage(oldest.page);
      room = oldest.samples;
    }
    const samples = room?.length === size ? room : new Float32Array(size);
    if (this.packed.length !== bytes) this.packed = new Uint8Array(bytes);
    checkPage(this.pages, page, this.packed, this.readPacked(bytes, offset));
    unpackSamples(this.packed, this.pages.bits, samples);
    this.paged.setPage(page, samples);
    this.loaded.push({ page, samples });
  }

  private readPacked(bytes: number, offset: number): number {
    try {
      return readSync(this.file, this.packed, 0, bytes, offset);
    } catch (thrown) {
      return nothingRead(thrown);
    }
  }

  close(): void {
    closeSync(this.file);
  }
}
