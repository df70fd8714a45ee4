import fc from 'fast-check';
import {
  compiledPacker,
  packedBytes,
  packSamples,
  PLAIN_PACKER,
  unpackSamples,
  type Packer,
  type SampleBits,
} from './packed-samples';

const PACKERS: Record<string, Packer> = { compiled: compiledPacker()!, plain: PLAIN_PACKER };

const wholeNumbers = (bits: 16 | 24) =>
  fc
    .array(fc.integer({ min: -(2 ** (bits - 1)), max: 2 ** (bits - 1) - 1 }), { maxLength: 70 })
    .map((whole) => Float32Array.from(whole, (value) => value / 2 ** (bits - 1)));

test.each([
  ['compiled', 16],
  ['compiled', 24],
  ['plain', 16],
  ['plain', 24],
] as const)('%s: whole numbers of %d bits come back as they were, wherever they lie (seed 3)', (name, bits) => {
  const { pack, unpack } = PACKERS[name];
  fc.assert(
    fc.property(wholeNumbers(bits), fc.integer({ min: 0, max: 5 }), (samples, at) => {
      const memory = new Uint8Array(at + packedBytes(samples.length, bits));
      expect(pack(samples, bits, memory.subarray(at))).toBe(true);
      expect(memory.subarray(at)).toEqual(packSamples(samples, bits));
      const out = new Float32Array(samples.length);
      unpack(memory.subarray(at), bits, out);
      expect(out).toEqual(samples);
    }),
    { seed: 3 },
  );
});

test.each([16, 24] as const)('a page of two channels, which is worked on in pieces, comes back in %d bits', (bits) => {
  const samples = Float32Array.from({ length: 131_071 }, (_, n) => (((n * 7919) % 65536) - 32768) / 32768);
  const out = new Float32Array(samples.length);
  unpackSamples(packSamples(samples, bits)!, bits, out);
  expect(Buffer.from(out.buffer).equals(Buffer.from(samples.buffer))).toBe(true);
});

test('their bytes are those of a WAV file: little endian, two’s complement', () => {
  const samples = Float32Array.of(-1, -1 / 32768, 1 / 32768, 0.5);
  expect([...packSamples(samples, 16)!]).toEqual([0x00, 0x80, 0xff, 0xff, 0x01, 0x00, 0x00, 0x40]);
  expect([...packSamples(samples, 24)!]).toEqual([0, 0, 0x80, 0, 0xff, 0xff, 0, 1, 0, 0, 0, 0x40]);
});

test.each<[SampleBits, number[]]>([
  [16, [1 / 65536, 1, -1.5, NaN, Infinity, 0.1]],
  [24, [2 ** -24, 1, -1.5, NaN, Infinity, 1e-30, 256]],
])('what is no whole number of %d bits is not packed', (bits, others) => {
  for (const other of others) {
    expect(packSamples(Float32Array.of(0.25, other), bits)).toBeNull();
    expect(PLAIN_PACKER.pack(Float32Array.of(0.25, other), bits as 16 | 24, new Uint8Array(8))).toBe(false);
  }
});

test('floats of 32 bits come back bit for bit', () => {
  const samples = Float32Array.of(0.1, -0, NaN, Infinity, 1e-40);
  const out = new Float32Array(samples.length);
  unpackSamples(packSamples(samples, 32)!, 32, out);
  expect(new Uint8Array(out.buffer)).toEqual(new Uint8Array(samples.buffer));
});
