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

/** What was missing is let in when so many frames of it are there: else it would be gone again at once. */
export const AHEAD_FRAMES = 8192;

/** Frames of one page of stored samples. */
export const PAGE_FRAMES = 65536;
/** A page travels in so many pieces, so that what is heard first need not wait for all of it. */
export const PIECES_OF_PAGE = 8;
/** Frames of one of them. */
export const PIECE_FRAMES = PAGE_FRAMES / PIECES_OF_PAGE;

/** A recording as pages of 32-bit samples; where they lie is up to who holds them. Pages may arrive in any order. */
export abstract class PagedSamples implements SampleSource {
  /** @param pageFrames of a page: {@link PAGE_FRAMES}, or fewer where it is held in pieces */
  constructor(
    readonly channels: 1 | 2,
    readonly lengthFrames: number,
    private readonly pageFrames = PAGE_FRAMES,
  ) {}

  get pageCount(): number {
    return Math.ceil(this.lengthFrames / this.pageFrames);
  }

  /** The samples of a channel in a page; undefined where they are not there. Must not allocate. */
  protected abstract side(page: number, channel: 0 | 1): Float32Array | undefined;

  hasPage(page: number): boolean {
    return this.side(page, 0) !== undefined;
  }

  has(frame: number, count: number): boolean {
    const first = Math.max(0, Math.floor(frame / this.pageFrames));
    const last = Math.min(this.pageCount - 1, Math.floor((frame + count - 1) / this.pageFrames));
    for (let page = first; page <= last; page++) if (!this.hasPage(page)) return false;
    return true;
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
    return Math.min(most, this.framesAt(at) - (at % this.pageFrames));
  }

  /** Frames of the page in which a frame lies. */
  private framesAt(at: number): number {
    return Math.min(this.pageFrames, this.lengthFrames - Math.floor(at / this.pageFrames) * this.pageFrames);
  }

  private copyRun(
    at: number,
    run: number,
    left: Float64Array | Float32Array,
    right: Float64Array | Float32Array,
    to: number,
  ): void {
    const page = Math.floor(at / this.pageFrames);
    const isWithin = at >= 0 && at < this.lengthFrames && this.hasPage(page);
    this.copySide(isWithin ? this.side(page, 0) : undefined, at, run, left, to);
    if (this.channels === 2) this.copySide(isWithin ? this.side(page, 1) : undefined, at, run, right, to);
  }

  private copySide(
    side: Float32Array | undefined,
    at: number,
    run: number,
    out: Float64Array | Float32Array,
    to: number,
  ): void {
    if (side) copySamples(side, at % this.pageFrames, out, to, run);
    else out.fill(0, to, to + run);
  }
}

/** A recording whose pages are given as planar samples: first all of the left channel, then all of the right. */
export class PagedSource extends PagedSamples {
  private readonly pages: (readonly Float32Array[] | undefined)[] = [];

  protected side(page: number, channel: 0 | 1): Float32Array | undefined {
    return this.pages[page]?.[channel];
  }

  /** @param samples planar; its length is the page's frames times the channels */
  setPage(page: number, samples: Float32Array): void {
    const frames = samples.length / this.channels;
    this.pages[page] = Array.from({ length: this.channels }, (_, c) => samples.subarray(c * frames, (c + 1) * frames));
  }

  /** Frees the memory of a page; it reads as silence until it is set again. */
  dropPage(page: number): void {
    this.pages[page] = undefined;
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
