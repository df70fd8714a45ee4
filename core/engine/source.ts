/**
 * Where a track's samples come from. Nothing assumes that a whole recording is in memory.
 */
export interface SampleSource {
  readonly channels: 1 | 2;
  /**
   * Writes `count` frames from `frame` on into `left` (and `right`, for two channels). What lies outside the recording,
   * or is not there yet, is silence. Must not allocate when it is used by a live engine.
   */
  read(frame: number, count: number, left: Float64Array, right: Float64Array): void;
}

/** Frames of one page of stored samples. */
export const PAGE_FRAMES = 65536;

/**
 * A recording as pages of planar 32-bit samples: page `p` holds frames from `p · PAGE_FRAMES`, first all of the left
 * channel, then all of the right. Pages may arrive in any order.
 */
export class PagedSource implements SampleSource {
  private readonly pages: (Float32Array | undefined)[];

  constructor(
    readonly channels: 1 | 2,
    readonly lengthFrames: number,
  ) {
    this.pages = new Array(Math.ceil(lengthFrames / PAGE_FRAMES)).fill(undefined);
  }

  get pageCount(): number {
    return this.pages.length;
  }

  hasPage(page: number): boolean {
    return this.pages[page] !== undefined;
  }

  /** @param samples planar; its length is the page's frames times the channels */
  setPage(page: number, samples: Float32Array): void {
    this.pages[page] = samples;
  }

  /** Frees the memory of a page; it reads as silence until it is set again. */
  dropPage(page: number): void {
    this.pages[page] = undefined;
  }

  read(frame: number, count: number, left: Float64Array, right: Float64Array): void {
    let done = 0;
    while (done < count) {
      const at = frame + done;
      if (at < 0 || at >= this.lengthFrames) {
        const silent = at < 0 ? Math.min(count - done, -at) : count - done;
        left.fill(0, done, done + silent);
        if (this.channels === 2) right.fill(0, done, done + silent);
        done += silent;
        continue;
      }
      const pageNumber = Math.floor(at / PAGE_FRAMES);
      const offset = at - pageNumber * PAGE_FRAMES;
      const pageFrames = Math.min(PAGE_FRAMES, this.lengthFrames - pageNumber * PAGE_FRAMES);
      const run = Math.min(count - done, pageFrames - offset);
      const page = this.pages[pageNumber];
      if (!page) {
        left.fill(0, done, done + run);
        if (this.channels === 2) right.fill(0, done, done + run);
      } else {
        copySamples(page, offset, left, done, run);
        if (this.channels === 2) copySamples(page, pageFrames + offset, right, done, run);
      }
      done += run;
    }
  }
}

/** From so many frames on a view is worth its making; the audio thread asks for fewer, and must not allocate. */
const LONG_RUN = 256;

function copySamples(page: Float32Array, from: number, to: Float64Array, at: number, count: number): void {
  if (count >= LONG_RUN) to.set(page.subarray(from, from + count), at);
  else for (let n = 0; n < count; n++) to[at + n] = page[from + n];
}
