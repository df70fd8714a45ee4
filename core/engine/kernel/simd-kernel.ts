import type { Kernel, SectionMemory } from './kernel';
import { KERNEL_BASE64 } from './kernel-bytes';
import { LANES, MAX_BLOCK, SECTION_STRIDE } from './layout';

interface Exports {
  memory: WebAssembly.Memory;
  run(sections: number, count: number, signal: number, frames: number): void;
  ease(section: number, signal: number, frames: number, follow: number): void;
  interleave(left: number, right: number, signal: number, frames: number): void;
  separate(signal: number, left: number, right: number, frames: number): void;
  sumAndDifference(signal: number, frames: number, scale: number): void;
  fromFloats(floats: number, signal: number, frames: number): number;
  fromFloatsMono(floats: number, signal: number, frames: number): number;
  toFloats(signal: number, floats: number, frames: number): void;
  toFloatsMono(signal: number, floats: number, frames: number): void;
}

const BLOCK_BYTES = MAX_BLOCK * 8;
/** Keeps the blocks from lying whole memory pages apart, where a processor takes reads of one for writes of the other. */
const GAP_BYTES = 1280;
const FIRST_GAP_BYTES = 2112;
const SECTION_BYTES = SECTION_STRIDE * 8;

/** The bytes of base64 text, by hand: the audio thread has no function for it. */
function bytesOf(base64: string): Uint8Array<ArrayBuffer> {
  const digits = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const text = base64.replace(/=+$/, '');
  const bytes = new Uint8Array(Math.floor((text.length * 3) / 4));
  let bits = 0;
  let held = 0;
  let at = 0;
  for (const digit of text) {
    held = (held << 6) | digits.indexOf(digit);
    bits += 6;
    if (bits < 8) continue;
    bits -= 8;
    bytes[at++] = (held >> bits) & 0xff;
  }
  return bytes;
}

/** The compiled kernel. Its memory has a fixed size, so that no view of it is ever lost. */
export class SimdKernel implements Kernel {
  readonly name = 'simd';
  readonly left: Float64Array;
  readonly right: Float64Array;
  readonly floats: Float32Array;
  private readonly leftAt: number;
  private readonly rightAt: number;
  private readonly signalAt: number;
  private readonly floatsAt: number;
  private next: number;
  /** Pieces of memory whose sections are gone, by their number of sections. */
  private readonly free = new Map<number, number[]>();
  private readonly gone = new FinalizationRegistry<{ sections: number; at: number }>(({ sections, at }) => {
    this.free.set(sections, [...(this.free.get(sections) ?? []), at]);
  });

  private constructor(private readonly wasm: Exports) {
    const buffer = wasm.memory.buffer;
    // The first page is left to the compiler. The offset keeps the blocks apart from arrays of the thread, which begin at a memory page.
    this.leftAt = 65536 + FIRST_GAP_BYTES;
    this.rightAt = this.leftAt + BLOCK_BYTES + GAP_BYTES;
    this.signalAt = this.rightAt + BLOCK_BYTES + GAP_BYTES;
    this.floatsAt = this.signalAt + LANES * BLOCK_BYTES + GAP_BYTES;
    this.next = this.floatsAt + BLOCK_BYTES;
    this.left = new Float64Array(buffer, this.leftAt, MAX_BLOCK);
    this.right = new Float64Array(buffer, this.rightAt, MAX_BLOCK);
    this.floats = new Float32Array(buffer, this.floatsAt, LANES * MAX_BLOCK);
  }

  /** @returns null where WebAssembly or its SIMD is missing */
  static create(): SimdKernel | null {
    try {
      const instance = new WebAssembly.Instance(new WebAssembly.Module(bytesOf(KERNEL_BASE64)));
      return new SimdKernel(instance.exports as unknown as Exports);
    } catch {
      return null;
    }
  }

  allocate(sections: number): SectionMemory | null {
    const buffer = this.wasm.memory.buffer;
    const used = this.free.get(sections)?.pop();
    if (used === undefined && this.next + sections * SECTION_BYTES > buffer.byteLength) return null;
    const at = used ?? this.next;
    if (used === undefined) this.next += sections * SECTION_BYTES;
    const memory = { numbers: new Float64Array(buffer, at, sections * SECTION_STRIDE).fill(0) };
    this.gone.register(memory, { sections, at });
    return memory;
  }

  load(frames: number, mono: boolean): void {
    this.wasm.interleave(this.leftAt, mono ? this.leftAt : this.rightAt, this.signalAt, frames);
  }

  store(frames: number, mono: boolean): void {
    this.wasm.separate(this.signalAt, this.leftAt, mono ? this.leftAt : this.rightAt, frames);
  }

  loadFloats(frames: number, mono: boolean): boolean {
    const { wasm, floatsAt, signalAt } = this;
    const oddities = (mono ? wasm.fromFloatsMono : wasm.fromFloats)(floatsAt, signalAt, frames);
    return oddities === 0;
  }

  storeFloats(frames: number, mono: boolean): void {
    const { wasm, floatsAt, signalAt } = this;
    (mono ? wasm.toFloatsMono : wasm.toFloats)(signalAt, floatsAt, frames);
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

  ease(memory: SectionMemory, index: number, frames: number, follow: number): void {
    this.wasm.ease(memory.numbers.byteOffset + index * SECTION_BYTES, this.signalAt, frames, follow);
  }
}
