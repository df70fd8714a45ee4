/** Figures that lengths and counts should not be. */
const ODD_NUMBERS = [0, 1, 0x7f, 0x80, 0xff, 0x7fff, 0x8000, 0xffff, 0x7fffffff, 0x80000000, 0xffffffff];

/** A file after one to six things that can happen to it; half of them near its head. @param random numbers in [0, 1) */
export function damaged(whole: Buffer, random: () => number): Buffer {
  const below = (limit: number) => Math.floor(random() * limit);
  let bytes = Buffer.from(whole);
  const place = () => below(random() < 0.5 ? Math.min(128, bytes.length) : bytes.length);
  for (let times = 1 + below(6); times > 0 && bytes.length > 8; times--) {
    const at = place();
    const length = Math.min(bytes.length - at, 1 + below(64));
    switch (below(7)) {
      case 0:
        bytes[at] ^= 1 << below(8);
        break;
      case 1:
        for (let i = at; i < at + length; i++) bytes[i] = below(256);
        break;
      case 2:
        bytes = bytes.subarray(0, Math.max(4, at));
        break;
      case 3:
        bytes = Buffer.concat([bytes.subarray(0, at), bytes.subarray(at + length)]);
        break;
      case 4:
        bytes = Buffer.concat([bytes.subarray(0, at), bytes.subarray(at, at + length), bytes.subarray(at)]);
        break;
      case 5:
        if (at + 4 <= bytes.length) bytes.writeUInt32LE(ODD_NUMBERS[below(ODD_NUMBERS.length)], at);
        break;
      default:
        if (at + 4 <= bytes.length) bytes.writeUInt32BE(ODD_NUMBERS[below(ODD_NUMBERS.length)], at);
    }
  }
  return bytes;
}
