import fc from 'fast-check';
import { PcmEncoder } from './pcm-encoder';
import { decodeFrames, frameBytes, readWavHeader, RENDER_FORMATS, wavHeader, type RenderFormat } from './wav';

const reader = (bytes: Uint8Array) => async (offset: number, length: number) => bytes.subarray(offset, offset + length);
const read = (bytes: Uint8Array, fileBytes = bytes.length) => readWavHeader(reader(bytes), fileBytes);

function encode(channels: Float64Array[], format: RenderFormat, rateHz = 48000): Uint8Array {
  const body = new PcmEncoder(channels.length, format).encode(channels, channels[0].length);
  const header = wavHeader({ channels: channels.length, rateHz, format, frames: channels[0].length });
  const file = new Uint8Array(header.length + body.length);
  file.set(header);
  file.set(body, header.length);
  return file;
}

test('what is written is read again, within half a step of its format (seed 11)', async () => {
  const samples = fc.array(fc.double({ min: -0.999, max: 0.999, noNaN: true }), { minLength: 1, maxLength: 50 });
  const stepOf = { '16': 2.5 / 32768, '24': 0.5 / 8388608, '32f': 1e-7 };
  await fc.assert(
    fc.asyncProperty(
      samples,
      fc.constantFrom(...RENDER_FORMATS),
      fc.constantFrom(1, 2),
      async (values, format, channels) => {
        const signal = Array.from({ length: channels }, (_, c) =>
          Float64Array.from(values, (value) => (c === 0 ? value : -value)),
        );
        const file = encode(signal, format);
        const info = await read(file);
        expect(info).toMatchObject({ channels, rateHz: 48000, format, frames: values.length });
        const again = decodeFrames(file.subarray(info.dataStart), info);
        const worst = Math.max(
          ...again.flatMap((channel, c) => Array.from(channel, (value, n) => Math.abs(value - signal[c][n]))),
        );
        expect(worst).toBeLessThanOrEqual(stepOf[format]);
      },
    ),
    { seed: 11, numRuns: 120 },
  );
});

/** A WAV file by hand, chunk by chunk. */
function chunks(kind: 'RIFF' | 'RF64', ...list: [string, number[] | Uint8Array, number?][]): Uint8Array {
  const bytes: number[] = [...Buffer.from(kind), 0xff, 0xff, 0xff, 0xff, ...Buffer.from('WAVE')];
  for (const [id, body, size = body.length] of list) {
    bytes.push(...Buffer.from(id), size & 255, (size >>> 8) & 255, (size >>> 16) & 255, (size >>> 24) & 255, ...body);
    if (body.length % 2 === 1) bytes.push(0);
  }
  return Uint8Array.from(bytes);
}
const le16 = (value: number) => [value & 255, value >> 8];
const le32 = (value: number) => [...le16(value & 0xffff), ...le16(value >>> 16)];
const fmt = (tag: number, channels: number, rate: number, bits: number) => [
  ...le16(tag),
  ...le16(channels),
  ...le32(rate),
  ...le32((rate * channels * bits) / 8),
  ...le16((channels * bits) / 8),
  ...le16(bits),
];
const extensible = (tag: number, bits: number) => [
  ...fmt(0xfffe, 2, 44100, bits),
  ...le16(22),
  ...le16(bits),
  ...le32(3),
  ...le16(tag),
  ...new Array(14).fill(0),
];

test('an extensible header, chunks of odd length before the data, and a float inside', async () => {
  const data = new Uint8Array(new Float64Array([0.25, -0.5, 1, 0]).buffer);
  const file = chunks('RIFF', ['LIST', [1, 2, 3]], ['fmt ', extensible(3, 64)], ['fact', le32(2)], ['data', data]);
  const info = await read(file);
  expect(info).toMatchObject({ channels: 2, rateHz: 44100, format: '64f', frames: 2 });
  expect(decodeFrames(file.subarray(info.dataStart), info).map((channel) => Array.from(channel))).toEqual([
    [0.25, 1],
    [-0.5, 0],
  ]);
});

test.each([
  ['16', 1, 16, [0, 0x80, 0xff, 0x7f], [-1, 32767 / 32768]],
  ['24', 1, 24, [0, 0, 0x80, 0xff, 0xff, 0x7f], [-1, 8388607 / 8388608]],
  ['32', 1, 32, [0, 0, 0, 0x80, 0, 0, 0, 0x40], [-1, 0.5]],
] as const)('%s-bit integers at both ends of their range', async (format, tag, bits, data, wanted) => {
  const file = chunks('RIFF', ['fmt ', fmt(tag, 1, 48000, bits)], ['data', [...data]]);
  const info = await read(file);
  expect(info.format).toBe(format);
  expect(
    Array.from(decodeFrames(file.subarray(info.dataStart, info.dataStart + 2 * frameBytes(info)), info)[0]),
  ).toEqual(wanted);
});

test('RF64: the length is in the ds64 chunk', async () => {
  const ds64 = [...le32(0), ...le32(0), ...le32(8), ...le32(0), ...le32(4), ...le32(0), ...le32(0)];
  const file = chunks(
    'RF64',
    ['ds64', ds64],
    ['fmt ', fmt(1, 1, 96000, 16)],
    ['data', new Array(8).fill(1), 0xffffffff],
  );
  expect(await read(file)).toMatchObject({ rateHz: 96000, frames: 4 });
});

test('more than 4 GB of samples make an RF64 header that is read again', async () => {
  const frames = 600_000_000;
  const header = wavHeader({ channels: 2, rateHz: 96000, format: '32f', frames });
  expect(Buffer.from(header.subarray(0, 4)).toString()).toBe('RF64');
  expect((await read(header, header.length + frames * 8)).frames).toBe(frames);
});

test('a data chunk that claims too much is read as far as the file goes', async () => {
  const file = chunks('RIFF', ['fmt ', fmt(1, 2, 48000, 16)], ['data', new Array(16).fill(0), 0xffffffff]);
  expect((await read(file)).frames).toBe(4);
});

test.each([
  ['not a WAV file', Uint8Array.from(Buffer.from('OggS and something else'))],
  ['ends before it is complete', Uint8Array.from(Buffer.from('RIFF'))],
  ['no audio data', chunks('RIFF', ['fmt ', fmt(1, 1, 48000, 16)])],
  ['data comes before its format', chunks('RIFF', ['data', [0, 0]])],
  ['WAV with 8-bit integer samples', chunks('RIFF', ['fmt ', fmt(1, 1, 48000, 8)], ['data', [0, 0]])],
  ['format 85', chunks('RIFF', ['fmt ', fmt(85, 1, 48000, 16)], ['data', [0, 0]])],
  ['no channels or no sample rate', chunks('RIFF', ['fmt ', fmt(1, 0, 48000, 16)], ['data', [0, 0]])],
  ['extensible format chunk is too short', chunks('RIFF', ['fmt ', fmt(0xfffe, 1, 48000, 16)], ['data', [0, 0]])],
])('refused with its reason: %s', async (reason, file) => {
  await expect(read(file)).rejects.toMatchObject({
    code: 'unreadable-audio',
    message: expect.stringContaining(reason),
  });
});

test('samples that are not numbers are refused', () => {
  const bytes = new Uint8Array(new Float32Array([0, NaN]).buffer);
  expect(() => decodeFrames(bytes, { channels: 1, format: '32f' })).toThrow('no numbers');
});

test('no bytes whatever make the reader fail otherwise than by its own error (seed 12)', async () => {
  const body = fc.uint8Array({ maxLength: 200 });
  await fc.assert(
    fc.asyncProperty(body, fc.boolean(), async (bytes, hasHead) => {
      const file = hasHead ? Uint8Array.from([...Buffer.from('RIFF\0\0\0\0WAVE'), ...bytes]) : bytes;
      try {
        expect((await read(file)).frames).toBeGreaterThanOrEqual(0);
      } catch (thrown) {
        expect(thrown).toMatchObject({ code: 'unreadable-audio' });
      }
    }),
    { seed: 12, numRuns: 400 },
  );
});
