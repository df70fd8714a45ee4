import type { CompiledTrack } from './compile';

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
  /** False where samples from a frame on, so many or some of them, have not arrived; where there is none, all are always there. */
  has?(frame: number, count: number): boolean;
  /**
   * The same as 32-bit samples, where that is what it has. May allocate.
   * @param sides an array for each side; the second is left alone for one channel
   */
  readFloats?(frame: number, count: number, sides: readonly Float32Array[]): void;
}

/** How the engine reads a source at a position of the song. */
export interface Reader {
  read(source: SampleSource, frame: number, count: number, left: Float64Array, right: Float64Array): void;
}

export const PLAIN_READER: Reader = {
  read: (source, frame, count, left, right) => source.read(frame, count, left, right),
};

/** The samples of a track; undefined is silence. */
export type SourceOf = (track: CompiledTrack) => SampleSource | undefined;

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

  has(frame: number, count: number): boolean {
    const first = Math.max(0, Math.floor(frame / PAGE_FRAMES));
    const last = Math.min(this.pages.length - 1, Math.floor((frame + count - 1) / PAGE_FRAMES));
    for (let page = first; page <= last; page++) if (this.pages[page] === undefined) return false;
    return true;
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
      const run = this.runLength(frame + done, count - done);
      this.copyRun(frame + done, run, left, right, done);
      done += run;
    }
  }

  readFloats(frame: number, count: number, [left, right]: readonly Float32Array[]): void {
    let done = 0;
    while (done < count) {
      const run = this.runLength(frame + done, count - done);
      this.copyRun(frame + done, run, left, right, done);
      done += run;
    }
  }

  /** How many frames from one on lie in the same page, or outside the recording. */
  private runLength(at: number, most: number): number {
    if (at < 0) return Math.min(most, -at);
    if (at >= this.lengthFrames) return most;
    return Math.min(most, this.pageFrames(at) - (at % PAGE_FRAMES));
  }

  /** Frames of the page in which a frame lies. */
  private pageFrames(at: number): number {
    return Math.min(PAGE_FRAMES, this.lengthFrames - Math.floor(at / PAGE_FRAMES) * PAGE_FRAMES);
  }

  private copyRun(
    at: number,
    run: number,
    left: Float64Array | Float32Array,
    right: Float64Array | Float32Array,
    to: number,
  ): void {
    const page = at < 0 || at >= this.lengthFrames ? undefined : this.pages[Math.floor(at / PAGE_FRAMES)];
    const stereo = this.channels === 2;
    if (!page) {
      left.fill(0, to, to + run);
      if (stereo) right.fill(0, to, to + run);
      return;
    }
    const offset = at % PAGE_FRAMES;
    copySamples(page, offset, left, to, run);
    if (stereo) copySamples(page, this.pageFrames(at) + offset, right, to, run);
  }
}

/** From so many frames on a view is worth its making; the audio thread asks for fewer, and must not allocate. */
const LONG_RUN = 256;

function copySamples(
  page: Float32Array,
  from: number,
  to: Float64Array | Float32Array,
  at: number,
  count: number,
): void {
  if (count >= LONG_RUN) to.set(page.subarray(from, from + count), at);
  else for (let n = 0; n < count; n++) to[at + n] = page[from + n];
}
