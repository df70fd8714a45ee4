import { MAX_BLOCK } from '../../engine/kernel/layout';
import { kernelExports } from '../../wasm/instance';
import { PlainClipperLoop, type ClipperBlock, type ClipperLoop } from '../clipper-loop';
import { OVERSAMPLING_TAPS } from '../oversampling';
import { MOST_GAIN, PEAK_PHASES, PlainPeakLoop, type PeakLoop } from '../peak-loop';
import {
  LINES,
  NUMBER_COUNT,
  plainReverbMemory,
  RUN,
  type CompiledLines,
  type LineSize,
  type ReverbMemory,
} from '../reverb-memory';
import { PROCESSORS_KERNEL_BASE64 } from './kernel-bytes';

/** See `assembly/kernel.ts`; places are bytes from the beginning of the memory. */
interface Exports {
  memory: WebAssembly.Memory;
  CLIPPER_BYTES: WebAssembly.Global<'i32'>;
  PEAKS_BYTES: WebAssembly.Global<'i32'>;
  clip(
    state: number,
    taps: number,
    signal: number,
    drives: number,
    ceilings: number,
    bends: number,
    frames: number,
  ): void;
  peaks(
    state: number,
    taps: number,
    signal: number,
    worth: number,
    out: number,
    mostGain: number,
    frames: number,
  ): void;
  runLines(
    numbers: number,
    places: number,
    moves: number,
    since: number,
    at: number,
    frames: number,
    lanes: number,
    fed: number,
    out: number,
    ended: number,
    mixGain: number,
  ): number;
  scatter(signal: number, places: number, steps: number, amount: number, frames: number): void;
}

/** Of each line of a reverb where its past lies, a mask for places in it, and how late it comes out; of an all-pass its length, and where it stands. */
const PLACE_INTEGERS = 3;

/** The first page is left to the compiler. */
const FIRST_BYTE = 65536;

/**
 * The loops of processors that take too long in the language's own ways, compiled to WebAssembly with SIMD. A kernel belongs to one thread;
 * its memory has a fixed size, so that no view of it is ever lost.
 */
class ProcessorsKernel {
  private next = FIRST_BYTE;
  private readonly oversamplingTaps: Float64Array;
  private readonly peakTaps: Float64Array;
  /** The block that is worked on, left and right in turn, and a figure or two of each of its frames. */
  private readonly signal: Float64Array;
  private readonly figures: readonly Float64Array[];
  /** What the lines of a reverb work in, one reverb after the other: all lines, what comes in, what is heard, and those that move. */
  private readonly reverb: Record<'lanes' | 'fed' | 'out' | 'moves', Float64Array>;
  /** Pasts whose loops are gone, by their size. */
  private readonly free = new Map<number, Float64Array[]>();
  /** Those whose owner has forgotten to give them back. */
  private readonly gone = new FinalizationRegistry<Float64Array>((past) => this.freeOf(past.length).push(past));

  constructor(private readonly wasm: Exports) {
    this.oversamplingTaps = this.holding(OVERSAMPLING_TAPS);
    this.peakTaps = this.holding(PEAK_PHASES);
    this.signal = this.room(2 * MAX_BLOCK);
    this.figures = [0, 1, 2].map(() => this.room(MAX_BLOCK));
    this.reverb = {
      lanes: this.room(LINES * RUN),
      fed: this.room(2 * RUN),
      out: this.room(2 * RUN),
      moves: this.room(LINES / 2),
    };
  }

  private room(doubles: number): Float64Array {
    const view = new Float64Array(this.wasm.memory.buffer, this.next, doubles);
    this.next += view.byteLength;
    return view;
  }

  private holding(filters: readonly Float64Array[]): Float64Array {
    const taps = filters.flatMap((filter) => [...filter]);
    const held = this.room(taps.length);
    held.set(taps);
    return held;
  }

  private freeOf(doubles: number): Float64Array[] {
    const free = this.free.get(doubles) ?? [];
    this.free.set(doubles, free);
    return free;
  }

  /** Room for the past of a loop, all zero; null where the memory is used up. */
  private pastOf(bytes: number): Float64Array | null {
    const used = this.freeOf(bytes / 8).pop();
    if (used) return used.fill(0);
    return this.next + bytes > this.wasm.memory.buffer.byteLength ? null : this.room(bytes / 8);
  }

  /** What gives a past back, once; where nobody calls it, that it is gone does. */
  private giver(past: Float64Array): () => void {
    const giveBack = () => {
      if (this.gone.unregister(giveBack)) this.freeOf(past.length).push(past);
    };
    this.gone.register(giveBack, past, giveBack);
    return giveBack;
  }

  clipperLoop(): ClipperLoop | null {
    const past = this.pastOf(this.wasm.CLIPPER_BYTES.value);
    if (!past) return null;
    return {
      process: (left, right, block, frames) => this.clip(past, left, right, block, frames),
      reset: () => void past.fill(0),
      release: this.giver(past),
    };
  }

  peakLoop(): PeakLoop | null {
    const past = this.pastOf(this.wasm.PEAKS_BYTES.value);
    if (!past) return null;
    return {
      run: (left, right, worth, peaks, frames) => this.findPeaks(past, left, right, worth, peaks, frames),
      reset: () => void past.fill(0),
      get isSound() {
        return past.every(Number.isFinite);
      },
      release: this.giver(past),
    };
  }

  /** @param scatterFrames lengths of the all-passes, the left and the right one of each step in turn */
  reverbMemory(lines: readonly LineSize[], scatterFrames: readonly number[]): ReverbMemory | null {
    const sizes = [...lines.map(({ room }) => room), ...scatterFrames];
    const placeCount = sizes.length * PLACE_INTEGERS;
    const all = NUMBER_COUNT + Math.ceil(placeCount / 2) + sizes.reduce((sum, size) => sum + size, 0);
    const whole = this.pastOf(8 * all);
    if (!whole) return null;
    const numbers = whole.subarray(0, NUMBER_COUNT);
    const { buffer, byteOffset } = whole;
    const places = new Int32Array(buffer, byteOffset + numbers.byteLength, placeCount);
    let at = NUMBER_COUNT + Math.ceil(placeCount / 2);
    const pieces = sizes.map((size) => whole.subarray(at, (at += size)));
    pieces.forEach((piece, i) => {
      const line = i < lines.length ? lines[i] : null;
      const place = line ? [line.room - 1, line.lateFrames] : [piece.length, 0];
      places.set([piece.byteOffset, ...place], PLACE_INTEGERS * i);
    });
    const scatterPlaces = places.subarray(PLACE_INTEGERS * lines.length);
    const scatterPasts = pieces.slice(lines.length);
    const { lanes, fed, out, moves } = this.reverb;
    const compiled: CompiledLines = {
      moves,
      fed,
      out,
      run: (from, frames, since, now, ended, mixGain) =>
        this.wasm.runLines(
          numbers.byteOffset,
          places.byteOffset,
          moves.byteOffset,
          since,
          now | 0,
          frames,
          lanes.byteOffset,
          fed.byteOffset + 16 * from,
          out.byteOffset + 16 * from,
          ended,
          mixGain,
        ) !== 0,
      scatter: (amount, frames) =>
        this.wasm.scatter(fed.byteOffset, scatterPlaces.byteOffset, scatterFrames.length / 2, amount, frames),
      clearScatter: () => {
        for (const past of scatterPasts) past.fill(0);
      },
      release: this.giver(whole),
    };
    return { numbers, pasts: pieces.slice(0, lines.length), compiled };
  }

  private clip(
    past: Float64Array,
    left: Float64Array,
    right: Float64Array | null,
    block: ClipperBlock,
    frames: number,
  ): void {
    const { wasm, oversamplingTaps, signal } = this;
    const [drives, ceilings, bends] = this.figures;
    this.load(left, right, frames);
    for (let n = 0; n < frames; n++) {
      drives[n] = block.drives[n];
      ceilings[n] = block.ceilings[n];
      bends[n] = block.bends[n];
    }
    wasm.clip(
      past.byteOffset,
      oversamplingTaps.byteOffset,
      signal.byteOffset,
      drives.byteOffset,
      ceilings.byteOffset,
      bends.byteOffset,
      frames,
    );
    for (let n = 0; n < frames; n++) left[n] = signal[2 * n];
    if (right) for (let n = 0; n < frames; n++) right[n] = signal[2 * n + 1];
  }

  private findPeaks(
    past: Float64Array,
    left: Float64Array,
    right: Float64Array | null,
    worth: Float64Array,
    peaks: Float64Array,
    frames: number,
  ): void {
    const { wasm, peakTaps, signal } = this;
    const [worths, found] = this.figures;
    this.load(left, right, frames);
    for (let n = 0; n < frames; n++) {
      worths[n] = worth[n];
      found[n] = peaks[n];
    }
    wasm.peaks(
      past.byteOffset,
      peakTaps.byteOffset,
      signal.byteOffset,
      worths.byteOffset,
      found.byteOffset,
      MOST_GAIN,
      frames,
    );
    for (let n = 0; n < frames; n++) peaks[n] = found[n];
  }

  private load(left: Float64Array, right: Float64Array | null, frames: number): void {
    const { signal } = this;
    const other = right ?? left;
    for (let n = 0; n < frames; n++) {
      signal[2 * n] = left[n];
      signal[2 * n + 1] = other[n];
    }
  }
}

let ofThisThread: ProcessorsKernel | null | undefined;

function threadKernel(): ProcessorsKernel | null {
  if (ofThisThread === undefined) {
    const wasm = kernelExports<Exports>(PROCESSORS_KERNEL_BASE64);
    ofThisThread = wasm && new ProcessorsKernel(wasm);
  }
  return ofThisThread;
}

/** The compiled loop of a clipper, or the plain one where WebAssembly, its SIMD, or room for another is missing. */
export const clipperLoop = (): ClipperLoop => threadKernel()?.clipperLoop() ?? new PlainClipperLoop();

/** As {@link clipperLoop}, of a limiter. */
export const peakLoop = (): PeakLoop => threadKernel()?.peakLoop() ?? new PlainPeakLoop();

/** The memory of a reverb's lines, with a compiled loop for them wherever it runs. */
export const reverbMemory = (lines: readonly LineSize[], scatterFrames: readonly number[]): ReverbMemory =>
  threadKernel()?.reverbMemory(lines, scatterFrames) ?? plainReverbMemory(lines);
