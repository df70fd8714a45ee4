import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { seededRandom } from '@/core/formats';
import { damaged } from '../testing/damage';
import { ownDataFolder } from '../testing/data-folder';
import { decodeRecording } from '../import/decode-recording';
import { withDecodedAudio } from './decode';
import { resample } from './resample';

process.env.ORVID_MAX_HOURS = '0.5';
const folder = ownDataFolder();
const at = (name: string) => path.join(folder, name);
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);

/** One second of two tones, made by ffmpeg: 440 Hz left, 1 kHz right. */
const TONES = [
  '-f',
  'lavfi',
  '-i',
  'sine=440:r=44100:d=1',
  '-f',
  'lavfi',
  '-i',
  'sine=1000:r=44100:d=1',
  '-filter_complex',
  'amerge=inputs=2',
];

interface Decoded {
  format: string;
  rateHz: number;
  channels: Float64Array[];
}

function decoded(file: string): Promise<Decoded> {
  return withDecodedAudio(file, async (audio) => {
    const blocks: Float64Array[][] = [];
    let length = 0;
    for await (const block of audio.blocks) {
      blocks.push(block.map((channel) => Float64Array.from(channel)));
      length += block[0].length;
    }
    const channels = Array.from({ length: audio.channels }, (_, c) => {
      const whole = new Float64Array(length);
      let at = 0;
      for (const { [c]: part } of blocks) {
        whole.set(part, at);
        at += part.length;
      }
      return whole;
    });
    return { format: audio.format, rateHz: audio.rateHz, channels };
  });
}

/** What ffmpeg makes of the same file, as 32-bit floats. */
function byFfmpeg(file: string, channels: number): Float64Array[] {
  ffmpeg('-i', file, '-f', 'f32le', `${file}.raw`);
  const raw = readFileSync(`${file}.raw`);
  const values = new Float32Array(raw.buffer, raw.byteOffset, raw.length / 4);
  return Array.from({ length: channels }, (_, c) =>
    Float64Array.from({ length: values.length / channels }, (__, n) => values[n * channels + c]),
  );
}
/** The same to the last bit. Comparing number by number takes half a second for one of sound. */
function expectSame(some: readonly Float64Array[], others: readonly Float64Array[]): void {
  expect(some.map(({ length }) => length)).toEqual(others.map(({ length }) => length));
  expect(
    some.every((channel, c) => Buffer.compare(Buffer.from(channel.buffer), Buffer.from(others[c].buffer)) === 0),
  ).toBe(true);
}

const worst = (a: Float64Array, b: Float64Array) =>
  a.reduce((most, value, n) => Math.max(most, Math.abs(value - (b[n] ?? 0))), 0);

test.each([
  ['s16.wav', ['-c:a', 'pcm_s16le'], 'WAV 16', 0],
  ['s24.wav', ['-c:a', 'pcm_s24le'], 'WAV 24', 1e-7],
  ['s32.wav', ['-c:a', 'pcm_s32le'], 'WAV 32', 1e-7],
  ['f32.wav', ['-c:a', 'pcm_f32le'], 'WAV 32f', 0],
  ['f64.wav', ['-c:a', 'pcm_f64le'], 'WAV 64f', 1e-7],
  ['rf64.wav', ['-c:a', 'pcm_s16le', '-rf64', 'always'], 'WAV 16', 0],
  ['bw64.wav', ['-c:a', 'pcm_s24le', '-rf64', 'always'], 'WAV 24', 1e-7],
  ['s16.aiff', ['-c:a', 'pcm_s16be'], 'AIFF 16', 0],
  ['s24.aif', ['-c:a', 'pcm_s24be', '-f', 'aiff'], 'AIFF 24', 1e-7],
  ['s32.aiff', ['-c:a', 'pcm_s32be'], 'AIFF 32', 1e-7],
  ['f32.aiff', ['-c:a', 'pcm_f32be'], 'AIFF 32f', 0],
  ['f64.aiff', ['-c:a', 'pcm_f64be'], 'AIFF 64f', 1e-7],
  ['little.aiff', ['-c:a', 'pcm_s16le'], 'AIFF 16', 0],
  ['plain.flac', ['-c:a', 'flac'], 'FLAC', 1e-7],
  ['plain.mp3', ['-c:a', 'libmp3lame', '-b:a', '192k'], 'MP3', 2e-4],
  ['plain.ogg', ['-c:a', 'libvorbis', '-q:a', '6'], 'Ogg Vorbis', 1e-5],
  ['plain.opus', ['-c:a', 'libopus', '-b:a', '160k'], 'Opus', 1e-2],
] as const)('%s is decoded as ffmpeg decodes it', async (name, options, format, within) => {
  ffmpeg(...TONES, ...options, at(name));
  if (name === 'bw64.wav') edit(at(name), (bytes) => bytes.write('BW64', 0, 'latin1'));
  const ours = await decoded(at(name));
  expect(ours.format).toBe(format);
  expect(ours.channels).toHaveLength(2);
  const reference = byFfmpeg(at(name), 2);
  // Coded formats pad at the end; what both have is compared.
  expect(Math.abs(ours.channels[0].length - reference[0].length)).toBeLessThanOrEqual(format === 'MP3' ? 3500 : 960);
  const offset = format === 'MP3' ? bestOffset(ours.channels[0], reference[0]) : 0;
  const common = Math.min(ours.channels[0].length - offset, reference[0].length) - 1200;
  for (const c of [0, 1])
    expect(worst(ours.channels[c].subarray(offset, offset + common), reference[c])).toBeLessThanOrEqual(within);
});

function edit(file: string, change: (bytes: Buffer) => void): void {
  const bytes = readFileSync(file);
  change(bytes);
  writeFileSync(file, bytes);
}

test.each([0, 0xffffffff])(
  'a WAV whose recorder was interrupted, of a size of %i, is read to its end',
  async (size) => {
    ffmpeg(...TONES, '-c:a', 'pcm_s16le', at('whole.wav'));
    const whole = await decoded(at('whole.wav'));
    writeFileSync(at('interrupted.wav'), readFileSync(at('whole.wav')));
    edit(at('interrupted.wav'), (bytes) => {
      bytes.writeUInt32LE(size, 4);
      bytes.writeUInt32LE(size, bytes.indexOf('data') + 4);
    });
    expectSame((await decoded(at('interrupted.wav'))).channels, whole.channels);
  },
);

test('an AIFF whose recorder was interrupted is read to its end; one of another program is read as that reads it; compressed ones are named', async () => {
  ffmpeg(...TONES, '-c:a', 'pcm_s24be', '-f', 'aiff', at('whole.aiff'));
  const whole = await decoded(at('whole.aiff'));
  writeFileSync(at('interrupted.aiff'), readFileSync(at('whole.aiff')));
  edit(at('interrupted.aiff'), (bytes) => {
    bytes.writeUInt32BE(0, bytes.indexOf('COMM') + 10);
    bytes.writeUInt32BE(0, bytes.indexOf('SSND') + 4);
  });
  expectSame((await decoded(at('interrupted.aiff'))).channels, whole.channels);
  execFileSync('sox', [at('whole.aiff'), '-r', '96000', at('sox.aiff')]);
  const sox = await decoded(at('sox.aiff'));
  expect([sox.rateHz, sox.channels[0].length]).toEqual([96000, 96000]);
  expect(worst(sox.channels[0], byFfmpeg(at('sox.aiff'), 2)[0])).toBeLessThan(1e-7);
  ffmpeg(...TONES, '-c:a', 'pcm_alaw', '-f', 'aiff', at('alaw.aiff'));
  await expect(decoded(at('alaw.aiff'))).rejects.toThrow(/of the kind “alaw”/);
});

test('24 bits in containers of four bytes lie at their upper end (WAVEFORMATEXTENSIBLE)', async () => {
  ffmpeg(...TONES, '-c:a', 'pcm_s24le', at('packed.wav'));
  const packed = await decoded(at('packed.wav'));
  ffmpeg('-i', at('packed.wav'), '-c:a', 'pcm_s32le', at('wide.wav'));
  edit(at('wide.wav'), (bytes) => {
    const format = bytes.indexOf('fmt ') + 8;
    bytes.writeUInt16LE(24, format + 14);
    if (bytes.readUInt16LE(format) === 0xfffe) bytes.writeUInt16LE(24, format + 18);
  });
  expectSame((await decoded(at('wide.wav'))).channels, packed.channels);
});

test('five minutes of silence in 5 KB of FLAC are decoded in pieces of bounded size', async () => {
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    'anullsrc=r=44100:cl=stereo:d=300',
    '-c:a',
    'flac',
    '-frame_size',
    '65535',
    at('long.flac'),
  );
  let [largest, frames] = [0, 0];
  await withDecodedAudio(at('long.flac'), async (audio) => {
    for await (const [block] of audio.blocks) {
      largest = Math.max(largest, block.length);
      frames += block.length;
    }
  });
  expect(frames).toBe(300 * 44100);
  expect(largest * 2 * 4).toBeLessThan(40e6);
});

test('a recording beyond the limit of hours, and samples that 32 bit cannot hold, are refused in words', async () => {
  const task = (name: string) => ({ source: at(name), pages: at(`pages-of-${name}`), fileName: name, rateHz: 8000 });
  ffmpeg('-f', 'lavfi', '-i', 'anullsrc=r=8000:cl=mono:d=1900', '-c:a', 'flac', at('hours.flac'));
  await expect(decodeRecording(task('hours.flac'), () => undefined)).rejects.toMatchObject({
    message: expect.stringContaining('it is longer than 0.5 hours'),
  });
  ffmpeg(...TONES, '-c:a', 'pcm_f64le', at('huge.wav'));
  edit(at('huge.wav'), (bytes) => bytes.writeDoubleLE(1e300, bytes.length - 8));
  await expect(decodeRecording(task('huge.wav'), () => undefined)).rejects.toMatchObject({
    message: expect.stringContaining('too large for 32 bit'),
  });
});

/** Where the other begins: decoders of MP3 differ in how much of the coder's delay they keep. */
function bestOffset(ours: Float64Array, reference: Float64Array): number {
  const error = (offset: number) => worst(reference.subarray(3000, 3400), ours.subarray(3000 + offset));
  return Array.from({ length: 2400 }, (_, offset) => offset).reduce(
    (best, offset) => (error(offset) < error(best) ? offset : best),
    0,
  );
}

// A real recording, CC0, from Debian's package sonic-pi-samples.
test('a real recording in FLAC equals what ffmpeg reads', async () => {
  const file = '/usr/share/sonic-pi/samples/loop_amen.flac';
  writeFileSync(at('amen.flac'), readFileSync(file));
  const ours = await decoded(at('amen.flac'));
  const reference = byFfmpeg(at('amen.flac'), ours.channels.length);
  expect(ours.channels[0].length).toBe(reference[0].length);
  expect(worst(ours.channels[0], reference[0])).toBeLessThan(1e-7);
});

test('FLAC of 24 bits holds the very samples of the WAV that it was made of', async () => {
  ffmpeg(...TONES, at('s16.wav'));
  ffmpeg('-i', at('s16.wav'), '-af', 'volume=0.371:precision=double', '-c:a', 'pcm_s24le', at('deep.wav'));
  ffmpeg('-i', at('deep.wav'), '-c:a', 'flac', '-bits_per_raw_sample', '24', at('deep.flac'));
  expectSame((await decoded(at('deep.flac'))).channels, (await decoded(at('deep.wav'))).channels);
});

const flac = () => readFileSync(at('plain.flac'));
test.each<[string, () => Uint8Array, string]>([
  ['an empty file', () => new Uint8Array(0), 'empty'],
  ['a text', () => Buffer.from('Dear diary, today we sang.'), 'not a WAV, AIFF, FLAC'],
  ['a FLAC file of noise', () => Buffer.concat([Buffer.from('fLaC'), Buffer.alloc(5000, 0x5a)]), 'FLAC'],
  ['a WAV file that ends in its header', () => Buffer.from('RIFF\x24\0\0\0WAVEfmt '), 'WAV'],
  [
    'a FLAC file with a hole',
    () => Buffer.concat([flac().subarray(0, 20000), Buffer.alloc(9000, 0x11), flac().subarray(29000)]),
    'damaged',
  ],
])('%s is refused, with its name and its fault', async (_, bytes, fault) => {
  writeFileSync(at('bad.bin'), bytes());
  const task = {
    source: at('bad.bin'),
    pages: at(`pages-${fault.length}-${bytes().length}`),
    fileName: 'my take.flac',
    rateHz: 48000,
  };
  await expect(decodeRecording(task, () => undefined)).rejects.toMatchObject({
    code: 'unreadable-audio',
    message: expect.stringMatching(new RegExp(`“my take.flac” could not be read: .*${fault}`)),
    kept: expect.stringContaining('The song and the other files are as they were'),
  });
});

test('more than two channels are refused with their number', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'anullsrc=r=48000:cl=5.1:d=0.2', at('six.wav'));
  await expect(decoded(at('six.wav'))).rejects.toMatchObject({ message: expect.stringContaining('6 channels') });
});

/** Power of what a sine fit leaves, dB relative to the sine. */
function residueDb(samples: Float64Array, hz: number, rateHz: number): number {
  let [ss, sc, cc, xs, xc] = [0, 0, 0, 0, 0];
  samples.forEach((x, n) => {
    const [s, c] = [Math.sin((2 * Math.PI * hz * n) / rateHz), Math.cos((2 * Math.PI * hz * n) / rateHz)];
    ss += s * s;
    sc += s * c;
    cc += c * c;
    xs += x * s;
    xc += x * c;
  });
  const det = ss * cc - sc * sc;
  const [a, b] = [(xs * cc - xc * sc) / det, (xc * ss - xs * sc) / det];
  let rest = 0;
  let all = 0;
  samples.forEach((x, n) => {
    const phase = (2 * Math.PI * hz * n) / rateHz;
    rest += (x - a * Math.sin(phase) - b * Math.cos(phase)) ** 2;
    all += x * x;
  });
  return 10 * Math.log10(rest / all);
}

test.each([
  [44100, 48000, 997],
  [96000, 48000, 15000],
  [48000, 44100, 10000],
  [352800, 44100, 10000],
  [384000, 48000, 15000],
])('from %i to %i Hz a sine of %i Hz keeps its level and gains no more than −110 dB', async (from, to, hz) => {
  async function* blocks() {
    for (let at = 0; at < from * 2; at += 7001) {
      const count = Math.min(7001, from * 2 - at);
      yield [Float64Array.from({ length: count }, (_, n) => 0.5 * Math.sin((2 * Math.PI * hz * (at + n)) / from))];
    }
  }
  const out: number[] = [];
  for await (const [block] of resample(blocks(), 1, from, to)) out.push(...Array.from(block));
  expect(out).toHaveLength(2 * to);
  const middle = Float64Array.from(out.slice(to / 2, to * 1.5));
  expect(residueDb(middle, hz, to)).toBeLessThan(-110);
  expect(Math.sqrt((2 * middle.reduce((sum, x) => sum + x * x, 0)) / middle.length)).toBeCloseTo(0.5, 4);
});

// A campaign of the same kind, with many more files, through server and command line: bench/fuzz.ts.
test.each(['flac', 'mp3', 'ogg', 'opus', 'wav', 'aiff'])(
  'a damaged %s is read as far as it goes, or named unreadable',
  async (extension) => {
    const whole = at(`whole.${extension}`);
    ffmpeg('-f', 'lavfi', '-i', 'sine=440:r=48000:d=0.5', '-ac', '2', whole);
    const random = seededRandom(extension.length);
    // A decoder writes what it minds to the console as well.
    const console = jest.spyOn(globalThis.console, 'error').mockImplementation(() => undefined);
    let refused = 0;
    for (let i = 0; i < 40; i++) {
      const file = at(`damaged.${extension}`);
      writeFileSync(file, damaged(readFileSync(whole), random));
      await decoded(file).catch((thrown: unknown) => {
        expect(thrown).toBeInstanceOf(OrvidError);
        expect((thrown as OrvidError).code).toBe('unreadable-audio');
        refused++;
      });
    }
    console.mockRestore();
    expect(refused).toBeGreaterThan(5);
  },
);
