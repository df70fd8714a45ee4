import { kernelExports } from '../../wasm/instance';
import type { Kernel, Levels, Samples, SectionMemory } from './kernel';
import { KERNEL_BASE64 } from './kernel-bytes';
import { LANES, MAX_BLOCK, SECTION_STRIDE } from './layout';

interface Exports {
  memory: WebAssembly.Memory;
  run(sections: number, count: number, signal: number, frames: number): void;
  runOfOne(sections: number, count: number, signal: number, frames: number): void;
  ease(sections: number, count: number, signal: number, frames: number, follow: number, phase: number): void;
  flush(sections: number, count: number): void;
  interleave(left: number, right: number, signal: number, frames: number): void;
  separate(signal: number, left: number, right: number, frames: number): void;
  sumAndDifference(signal: number, frames: number, scale: number): void;
  fromFloats(floats: number, signal: number, frames: number): number;
  fromFloatsMono(floats: number, signal: number, frames: number): number;
  fromPlanar(left: number, right: number, signal: number, frames: number): number;
  mixPlanar(signal: number, left: number, right: number, leftFactor: number, rightFactor: number, frames: number): void;
  add(sum: number, samples: number, frames: number): void;
  addScaled(sum: number, samples: number, factor: number, frames: number): void;
  addMeasured(sum: number, samples: number, factor: number, frames: number, measured: number): void;
  addMoving(sum: number, samples: number, gains: number, factor: number, frames: number, measured: number): void;
  oddities(samples: number, frames: number): number;
  toFloats(signal: number, floats: number, frames: number, first: number, second: number): void;
  toFloatsMono(signal: number, floats: number, frames: number, factor: number): void;
}

/** Room for so many sections, in bytes from the beginning of the memory. */
interface Piece {
  size: number;
  at: number;
}

const BLOCK_BYTES = MAX_BLOCK * 8;
/** Keeps the blocks from lying whole memory pages apart, where a processor takes reads of one for writes of the other. */
const GAP_BYTES = 1280;
const FIRST_GAP_BYTES = 2112;
const MEASURED = 2;
const SECTION_BYTES = SECTION_STRIDE * 8;

/** The compiled kernel. Its memory has a fixed size, so that no view of it is ever lost. */
export class SimdKernel implements Kernel {
  readonly name = 'simd';
  readonly left: Float64Array;
  readonly right: Float64Array;
  readonly gains: Float64Array;
  readonly floats: Float32Array;
  private readonly memory: ArrayBuffer;
  /** Where what comes from outside is taken: not the block that is worked on, which may be needed still. */
  private readonly passing: readonly [Float64Array, Float64Array];
  /** Peak and sum of squares of what was added last. */
  private readonly measured: Float64Array;
  private readonly signalAt: number;
  private readonly floatsAt: number;
  private next: number;
  /** Pieces of memory whose sections are gone, by their size; sizes are powers of two. */
  private readonly free = new Map<number, number[]>();
  /** Those whose owner has forgotten to give them back. */
  private readonly gone = new FinalizationRegistry<Piece>((piece) => this.keep(piece));

  private constructor(private readonly wasm: Exports) {
    const buffer = (this.memory = wasm.memory.buffer);
    // The first page is left to the compiler. The offset keeps the blocks apart from arrays of the thread, which begin at a memory page.
    const leftAt = 65536 + FIRST_GAP_BYTES;
    const rightAt = leftAt + BLOCK_BYTES + GAP_BYTES;
    this.signalAt = rightAt + BLOCK_BYTES + GAP_BYTES;
    this.floatsAt = this.signalAt + LANES * BLOCK_BYTES + GAP_BYTES;
    const passingAt = this.floatsAt + BLOCK_BYTES + GAP_BYTES;
    const otherPassingAt = passingAt + BLOCK_BYTES + GAP_BYTES;
    const gainsAt = otherPassingAt + BLOCK_BYTES + GAP_BYTES;
    const measuredAt = gainsAt + BLOCK_BYTES;
    this.next = measuredAt + MEASURED * 8;
    this.left = new Float64Array(buffer, leftAt, MAX_BLOCK);
    this.right = new Float64Array(buffer, rightAt, MAX_BLOCK);
    this.gains = new Float64Array(buffer, gainsAt, MAX_BLOCK);
    this.floats = new Float32Array(buffer, this.floatsAt, LANES * MAX_BLOCK);
    this.passing = [
      new Float64Array(buffer, passingAt, MAX_BLOCK),
      new Float64Array(buffer, otherPassingAt, MAX_BLOCK),
    ];
    this.measured = new Float64Array(buffer, measuredAt, MEASURED);
  }

  /** @returns null where WebAssembly or its SIMD is missing */
  static create(): SimdKernel | null {
    const wasm = kernelExports<Exports>(KERNEL_BASE64);
    return wasm && new SimdKernel(wasm);
  }

  allocate(sections: number): SectionMemory | null {
    const { memory: buffer } = this;
    const size = 2 ** Math.ceil(Math.log2(Math.max(1, sections)));
    const used = this.free.get(size)?.pop();
    if (used === undefined && this.next + size * SECTION_BYTES > buffer.byteLength) return null;
    const at = used ?? this.next;
    if (used === undefined) this.next += size * SECTION_BYTES;
    const memory = { numbers: new Float64Array(buffer, at, sections * SECTION_STRIDE).fill(0) };
    this.gone.register(memory, { size, at }, memory);
    return memory;
  }

  release(memory: SectionMemory): void {
    const { byteOffset, length } = memory.numbers;
    this.gone.unregister(memory);
    this.keep({ size: 2 ** Math.ceil(Math.log2(Math.max(1, length / SECTION_STRIDE))), at: byteOffset });
  }

  private keep({ size, at }: Piece): void {
    const pieces = this.free.get(size);
    if (pieces) pieces.push(at);
    else this.free.set(size, [at]);
  }

  load(left: Float64Array, right: Float64Array | null, at: number, frames: number): void {
    const first = this.placeOf(left, this.passing[0], at, frames);
    const second = right ? this.placeOf(right, this.passing[1], at, frames) : first;
    this.wasm.interleave(first, second, this.signalAt, frames);
  }

  store(left: Float64Array, right: Float64Array | null, at: number, frames: number): void {
    const [a, b] = this.passing;
    const first = this.isInside(left) ? left.byteOffset + 8 * at : a.byteOffset;
    const second = !right ? first : this.isInside(right) ? right.byteOffset + 8 * at : b.byteOffset;
    this.wasm.separate(this.signalAt, first, second, frames);
    if (first === a.byteOffset) for (let n = 0; n < frames; n++) left[at + n] = a[n];
    if (right && second === b.byteOffset) for (let n = 0; n < frames; n++) right[at + n] = b[n];
  }

  private isInside(samples: Float64Array): boolean {
    // Which memory an array is of takes longer to be told than which of the two it mostly is.
    return samples === this.left || samples === this.right || samples.buffer === this.memory;
  }

  /** Where samples lie in the memory, from a place of theirs on; those from outside are taken into it. */
  private placeOf(samples: Float64Array, passing: Float64Array, at: number, frames: number): number {
    if (this.isInside(samples)) return samples.byteOffset + 8 * at;
    for (let n = 0; n < frames; n++) passing[n] = samples[at + n];
    return passing.byteOffset;
  }

  loadFloats(frames: number, mono: boolean): boolean {
    const { wasm, floatsAt, signalAt } = this;
    const oddities = (mono ? wasm.fromFloatsMono : wasm.fromFloats)(floatsAt, signalAt, frames);
    return oddities === 0;
  }

  storeFloats(frames: number, mono: boolean, [first, second]: readonly [number, number]): void {
    const { wasm, floatsAt, signalAt } = this;
    if (mono) wasm.toFloatsMono(signalAt, floatsAt, frames, first);
    else wasm.toFloats(signalAt, floatsAt, frames, first, second);
  }

  loadPlanar(left: Float32Array, right: Float32Array, at: number, frames: number): boolean {
    return this.wasm.fromPlanar(left.byteOffset + 4 * at, right.byteOffset + 4 * at, this.signalAt, frames) !== 0;
  }

  mix(left: Float64Array, right: Float64Array, leftFactor: number, rightFactor: number, frames: number): void {
    this.wasm.mixPlanar(this.signalAt, left.byteOffset, right.byteOffset, leftFactor, rightFactor, frames);
  }

  add(sum: Float64Array, samples: Float64Array, frames: number): void {
    this.wasm.add(sum.byteOffset, this.placeOf(samples, this.passing[0], 0, frames), frames);
  }

  addScaled(sum: Float64Array, samples: Float64Array, factor: number, frames: number, levels: Levels | null): void {
    const to = sum.byteOffset;
    const from = this.placeOf(samples, this.passing[0], 0, frames);
    if (!levels) {
      this.wasm.addScaled(to, from, factor, frames);
      return;
    }
    this.wasm.addMeasured(to, from, factor, frames, this.measured.byteOffset);
    this.raise(levels);
  }

  addMoving(sum: Samples, from: Samples, gains: Samples, factor: number, frames: number, levels: Levels | null): void {
    const at = this.placeOf(from, this.passing[0], 0, frames);
    const by = this.placeOf(gains, this.passing[1], 0, frames);
    this.wasm.addMoving(sum.byteOffset, at, by, factor, frames, this.measured.byteOffset);
    if (levels) this.raise(levels);
  }

  private raise(levels: Levels): void {
    const { measured } = this;
    if (measured[0] > levels.peak) levels.peak = measured[0];
    levels.power += measured[1];
  }

  areFinite(samples: Float64Array, frames: number): boolean {
    return this.wasm.oddities(samples.byteOffset, frames) === 0;
  }

  toMidSide(frames: number): void {
    this.wasm.sumAndDifference(this.signalAt, frames, 0.5);
  }

  toLeftRight(frames: number): void {
    this.wasm.sumAndDifference(this.signalAt, frames, 1);
  }

  run(memory: SectionMemory, first: number, count: number, frames: number): void {
    this.wasm.run(memory.numbers.byteOffset + first * SECTION_BYTES, count, this.signalAt, frames);
  }

  runOfOne(memory: SectionMemory, first: number, count: number, frames: number): void {
    this.wasm.runOfOne(memory.numbers.byteOffset + first * SECTION_BYTES, count, this.signalAt, frames);
  }

  ease(memory: SectionMemory, first: number, count: number, frames: number, follow: number, phase: number): void {
    const at = memory.numbers.byteOffset + first * SECTION_BYTES;
    this.wasm.ease(at, count, this.signalAt, frames, follow, phase);
  }

  flush(memory: SectionMemory, first: number, count: number): void {
    this.wasm.flush(memory.numbers.byteOffset + first * SECTION_BYTES, count);
  }
}
