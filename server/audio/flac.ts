/** What a FLAC file says of itself. Source: RFC 9639, section 8.2 (streaminfo). */
export interface FlacInfo {
  bitsPerSample: number;
  /** Samples of each channel; 0 when the coder did not know. */
  totalSamples: number;
}

const STREAMINFO_AT = 8;

/** @param head the first bytes of the file, from `fLaC` on. @returns null when the first block is not streaminfo */
export function readFlacInfo(head: Uint8Array): FlacInfo | null {
  if (head.length < STREAMINFO_AT + 34 || (head[4] & 0x7f) !== 0) return null;
  const fields = new DataView(head.buffer, head.byteOffset).getBigUint64(STREAMINFO_AT + 10);
  return { bitsPerSample: Number((fields >> 36n) & 0x1fn) + 1, totalSamples: Number(fields & 0xfffffffffn) };
}

/**
 * Puts the decoder's floats back on the integers that the file holds: the decoder divides by 2^(bits−1) − 1, and everything else
 * here has full scale at 2^(bits−1), so that FLAC and WAV of one recording are the same samples.
 */
export function toExactScale(channels: Float32Array[], bitsPerSample: number): Float32Array[] {
  const fullScale = 2 ** (bitsPerSample - 1);
  return channels.map((channel) => channel.map((value) => Math.round(value * (fullScale - 1)) / fullScale));
}
