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
  const whole = wholeNumbers(samples, bits);
  if (!whole) return null;
  return bits === 16 ? new Uint8Array(new Int16Array(whole).buffer) : packLong(whole);
}

function wholeNumbers(samples: Float32Array, bits: 16 | 24): Int32Array | null {
  const fullScale = 2 ** (bits - 1);
  const { length } = samples;
  const whole = new Int32Array(length);
  for (let n = 0; n < length; n++) {
    const value = samples[n] * fullScale;
    const number = value | 0;
    if (number !== value || number >= fullScale || number < -fullScale) return null;
    whole[n] = number;
  }
  return whole;
}

/** Four samples lie in three words; what is left of a page is written by bytes. */
function packLong(whole: Int32Array): Uint8Array {
  const { length } = whole;
  const bytes = new Uint8Array(3 * length);
  const words = new Int32Array(bytes.buffer, 0, 3 * Math.floor(length / 4));
  let n = 0;
  for (let at = 0; at < words.length; at += 3, n += 4) {
    const second = whole[n + 1];
    const third = whole[n + 2];
    words[at] = (whole[n] & 0xffffff) | (second << 24);
    words[at + 1] = ((second >> 8) & 0xffff) | (third << 16);
    words[at + 2] = ((third >> 16) & 0xff) | (whole[n + 3] << 8);
  }
  for (let at = 3 * n; n < length; n++, at += 3) {
    bytes[at] = whole[n];
    bytes[at + 1] = whole[n] >> 8;
    bytes[at + 2] = whole[n] >> 16;
  }
  return bytes;
}

/** Writes packed samples into `out`, as many as it holds. @param bytes as many as they take, {@link packedBytes} */
export function unpackSamples(bytes: Uint8Array, bits: SampleBits, out: Float32Array): void {
  if (bits === 32) new Uint8Array(out.buffer, out.byteOffset, out.byteLength).set(bytes);
  else if (bits === 16) unpackShort(bytes, out);
  else unpackLong(bytes, out);
}

const SCALE_16 = 2 ** -15;

function unpackShort(bytes: Uint8Array, out: Float32Array): void {
  const from = bytes.byteOffset % 2 === 0 ? bytes : bytes.slice();
  const { length } = out;
  // Copied first: faster than one by one.
  out.set(new Int16Array(from.buffer, from.byteOffset, length));
  for (let n = 0; n < length; n++) out[n] *= SCALE_16;
}

const SCALE_24 = 2 ** -23;

/** Four samples lie in three words; what is left of a page is read by bytes. */
function unpackLong(bytes: Uint8Array, out: Float32Array): void {
  const from = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  const words = new Int32Array(from.buffer, from.byteOffset, 3 * Math.floor(out.length / 4));
  const { length } = words;
  let n = 0;
  for (let at = 0; at < length; at += 3, n += 4) {
    const one = words[at];
    const two = words[at + 1];
    const three = words[at + 2];
    out[n] = ((one << 8) >> 8) * SCALE_24;
    out[n + 1] = ((((one >>> 24) | (two << 8)) << 8) >> 8) * SCALE_24;
    out[n + 2] = ((((two >>> 16) | (three << 16)) << 8) >> 8) * SCALE_24;
    out[n + 3] = (three >> 8) * SCALE_24;
  }
  for (let at = 3 * n; n < out.length; n++, at += 3)
    out[n] = (((from[at] << 8) | (from[at + 1] << 16) | (from[at + 2] << 24)) >> 8) * SCALE_24;
}
