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

/**
 * What a compiled kernel exports.
 * @param base64 the module, as it lies in the source
 * @returns null where WebAssembly or its SIMD is missing
 */
export function kernelExports<Exports>(base64: string): Exports | null {
  try {
    return new WebAssembly.Instance(new WebAssembly.Module(bytesOf(base64))).exports as unknown as Exports;
  } catch {
    return null;
  }
}
