import { kernelExports } from '../../wasm/instance';
import { PACKING_KERNEL_BASE64 } from './kernel-bytes';

/**
 * How the samples of a page are written, little endian: whole numbers of 16 or 24 bits, where all of them are such (what most recordings are made of), or
 * 32-bit floats. Full scale of `bits` is 2^(bits − 1). Nothing is rounded either way.
 */
export type SampleBits = 16 | 24 | 32;

/** Tells in how many bits each of the pages in an answer is packed: numbers with commas between. */
export const SAMPLE_BITS_HEADER = 'orvid-sample-bits';

/** Bytes of so many samples. */
export const packedBytes = (samples: number, bits: SampleBits): number => (samples * bits) / 8;

/** @returns the samples in so many bits; null where one of them is not a whole number of that size */
export function packSamples(samples: Float32Array, bits: SampleBits): Uint8Array | null {
  if (bits === 32) return new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  const bytes = new Uint8Array(packedBytes(samples.length, bits));
  return packer().pack(samples, bits, bytes) ? bytes : null;
}

/** Writes packed samples into `out`, as many as it holds. @param bytes as many as they take, {@link packedBytes} */
export function unpackSamples(bytes: Uint8Array, bits: SampleBits, out: Float32Array): void {
  if (bits === 32) new Uint8Array(out.buffer, out.byteOffset, out.byteLength).set(bytes);
  else packer().unpack(bytes, bits, out);
}

/** What packs and unpacks whole numbers. */
export interface Packer {
  /** @returns false where one of the samples is not a whole number of that size; then nothing counts of what was written */
  pack(samples: Float32Array, bits: 16 | 24, bytes: Uint8Array): boolean;
  unpack(bytes: Uint8Array, bits: 16 | 24, out: Float32Array): void;
}

let known: Packer | undefined;
/** The one of this thread: the compiled one, where it can run. */
const packer = (): Packer => (known ??= compiledPacker() ?? PLAIN_PACKER);

interface Exports {
  memory: WebAssembly.Memory;
  unpack16(from: number, to: number, count: number): void;
  unpack24(from: number, to: number, count: number): void;
  pack16(from: number, to: number, count: number): number;
  pack24(from: number, to: number, count: number): number;
}

/** Samples that are worked on at once. */
const CHUNK = 65536;
/** Where they lie in the kernel's memory. Four are worked on at a time, so that something is written behind the last. */
const FLOATS_AT = 1024;
const PACKED_AT = FLOATS_AT + 4 * CHUNK + 64;
const upToFour = (count: number) => Math.ceil(count / 4) * 4;

/** @returns null where WebAssembly or its SIMD is missing */
export function compiledPacker(): Packer | null {
  const exports = kernelExports<Exports>(PACKING_KERNEL_BASE64);
  if (!exports) return null;
  const { buffer } = exports.memory;
  const floats = new Float32Array(buffer, FLOATS_AT, CHUNK);
  const packed = new Uint8Array(buffer, PACKED_AT, 3 * CHUNK);
  return {
    pack(samples, bits, bytes) {
      const run = bits === 16 ? exports.pack16 : exports.pack24;
      for (let at = 0; at < samples.length; at += CHUNK) {
        const chunk = samples.subarray(at, at + CHUNK);
        floats.set(chunk);
        floats.fill(0, chunk.length, upToFour(chunk.length));
        if (run(FLOATS_AT, PACKED_AT, upToFour(chunk.length)) === 0) return false;
        bytes.set(packed.subarray(0, packedBytes(chunk.length, bits)), packedBytes(at, bits));
      }
      return true;
    },
    unpack(bytes, bits, out) {
      const run = bits === 16 ? exports.unpack16 : exports.unpack24;
      for (let at = 0; at < out.length; at += CHUNK) {
        const count = Math.min(CHUNK, out.length - at);
        packed.set(bytes.subarray(packedBytes(at, bits), packedBytes(at + count, bits)));
        run(PACKED_AT, FLOATS_AT, upToFour(count));
        out.set(floats.subarray(0, count), at);
      }
    },
  };
}

/** The same without WebAssembly. */
export const PLAIN_PACKER: Packer = {
  pack(samples, bits, bytes) {
    const fullScale = 2 ** (bits - 1);
    for (let n = 0, at = 0; n < samples.length; n++) {
      const value = samples[n] * fullScale;
      const whole = value | 0;
      if (whole !== value || whole >= fullScale || whole < -fullScale) return false;
      bytes[at++] = whole;
      bytes[at++] = whole >> 8;
      if (bits === 24) bytes[at++] = whole >> 16;
    }
    return true;
  },
  unpack(bytes, bits, out) {
    const scale = 2 ** (1 - bits);
    const highest = bits / 8 - 1;
    for (let n = 0, at = 0; n < out.length; n++, at += highest + 1) {
      let whole = (bytes[at + highest] << 24) >> 24;
      for (let place = highest - 1; place >= 0; place--) whole = (whole << 8) | bytes[at + place];
      out[n] = whole * scale;
    }
  },
};
