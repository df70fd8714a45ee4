import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { decodeFrames, readWavHeader, seededRandom } from '@/core/formats';
import { plainOrder, stripsThatAddUp, type FileSettings, type PlannedFile } from '@/core/renders';
import { emptySong, newBus, newProcessor, newTrack, songLengthFrames, type Song } from '@/core/song';
import { freshPages } from '../audio/page-file';
import { ownDataFolder } from '../testing/data-folder';
import { renderTaskOf } from './render-job';
import { renderSongFile } from './render-song';

/** Files that are handed on, looked at by programs that others have written: ffmpeg, ffprobe, flac, sox. */
const folder = ownDataFolder();
const RATE = 48000;
const SECONDS = 5;
const ids = ['a', 'b', 'c'].map((letter) => letter.repeat(64));
const pageFiles = Object.fromEntries(
  ids.map((id) => [id, freshPages(path.join(folder, `pages-${id[0]}`), id[0], RATE)]),
);

const track = (id: string, audioId: string, changes: object = {}) => ({
  ...newTrack({ audioId, channels: 1, lengthFrames: SECONDS * RATE }, { id, name: id, ink: 0 }),
  ...changes,
});
const bus = (id: string, changes: object = {}) => ({ ...newBus({ id, name: id, ink: 0 }), ...changes });

/** A group with a compressor that listens to another track, a return with a reverb, a master with a limiter. */
const song: Song = {
  ...emptySong('Lantern Ferry', RATE),
  parts: [
    { name: 'Verse', startSeconds: 0 },
    { name: 'Refrain', startSeconds: 2.5 },
  ],
  tracks: [
    track('Drum', ids[0], { gainDb: -4 }),
    track('Cello', ids[1], {
      outputId: 'strings',
      pan: -0.4,
      sends: [{ busId: 'room', gainDb: -6, tap: 'after-fader', enabled: true }],
    }),
    track('Voice', ids[2], {
      delayMs: -12,
      pan: 0.2,
      sends: [{ busId: 'room', gainDb: -3, tap: 'after-fader', enabled: true }],
    }),
  ],
  buses: [
    bus('strings', {
      chain: [
        {
          ...newProcessor('compressor', 'squeeze'),
          thresholdDb: -30,
          key: { stripId: 'Drum', lowHz: null, highHz: null },
        },
      ],
    }),
    bus('room', { chain: [{ ...newProcessor('reverb', 'hall'), dry: false, decaySeconds: 0.8 }] }),
  ],
  master: { ...emptySong('x').master, gainDb: 3, chain: [{ ...newProcessor('limiter', 'last'), ceilingDb: -6 }] },
} as Song;

beforeAll(() =>
  ids.forEach((id, i) => {
    const random = seededRandom(i + 1);
    const samples = Float32Array.from({ length: SECONDS * RATE }, (_, n) => {
      const beat = Math.exp(-((n % 24000) / 4000));
      return 0.4 * beat * (random() - 0.5) + 0.2 * Math.sin((n * (i + 2) * 220) / 7639);
    });
    writeFileSync(pageFiles[id].path, Buffer.from(samples.buffer));
  }),
);

let made = 0;
async function render(settings: Partial<FileSettings>, file: Partial<PlannedFile> = {}, of: Song = song) {
  const whole = { name: '', startSeconds: 0, endSeconds: songLengthFrames(of) / RATE };
  const planned = { name: 'x', what: 'mix', title: 'mix', span: whole, throughMaster: true, ...file };
  const all = { ...plainOrder.settings, ...settings };
  const out = path.join(folder, `made-${made++}.${all.file}`);
  const task = renderTaskOf(of, { file: planned, settings: all }, '2026-11-27T20:15:00.000Z');
  const told = await renderSongFile({ ...task, pageFiles, out }, () => undefined);
  return { out, ...told };
}

async function samplesOf(file: string): Promise<Float64Array[]> {
  const bytes = new Uint8Array(readFileSync(file));
  const info = await readWavHeader(async (at, length) => bytes.subarray(at, at + length), bytes.length);
  return decodeFrames(bytes.subarray(info.dataStart, info.dataStart + info.frames * 8), info) as Float64Array[];
}

interface Probe {
  streams: {
    codec_name: string;
    sample_rate: string;
    channels: number;
    duration: string;
    bits_per_raw_sample?: string;
  }[];
  format: { tags?: Record<string, string> };
}
function probe(file: string) {
  const args = ['-v', 'error', '-show_streams', '-show_format', '-of', 'json', file];
  const { streams, format } = JSON.parse(execFileSync('ffprobe', args, { encoding: 'utf8' })) as Probe;
  const tags = Object.fromEntries(Object.entries(format.tags ?? {}).map(([name, text]) => [name.toLowerCase(), text]));
  return { ...streams[0], tags };
}
const decodedHash = (file: string) =>
  createHash('md5')
    .update(execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 's32le', '-'], { maxBuffer: 1 << 28 }))
    .digest('hex');

/** Loudness and true peak by ffmpeg's `ebur128`. */
function loudnessOf(file: string) {
  const { stderr } = spawnSync(
    'ffmpeg',
    ['-hide_banner', '-nostats', '-i', file, '-af', 'ebur128=peak=true', '-f', 'null', '-'],
    {
      encoding: 'utf8',
    },
  );
  const summary = stderr.slice(stderr.lastIndexOf('Summary:'));
  return {
    lufs: Number(/I:\s+(-?[\d.]+) LUFS/.exec(summary)![1]),
    peak: Number(/Peak:\s+(-?[\d.]+) dBFS/.exec(summary)![1]),
  };
}

test.each([
  ['wav', '16', 'pcm_s16le'],
  ['wav', '24', 'pcm_s24le'],
  ['wav', '32f', 'pcm_f32le'],
  ['flac', '16', 'flac'],
  ['flac', '24', 'flac'],
  ['mp3', '24', 'mp3'],
] as const)('%s, %s bit, is what it says to ffprobe and sox', async (file, bits, codec) => {
  const { out, frames } = await render({ file, bits, tailSeconds: 0 });
  expect(frames).toBe(SECONDS * RATE);
  const { codec_name, sample_rate, channels, duration } = probe(out);
  expect({ codec_name, sample_rate, channels }).toEqual({ codec_name: codec, sample_rate: '48000', channels: 2 });
  expect(Math.abs(Number(duration) - SECONDS)).toBeLessThan(file === 'mp3' ? 0.1 : 1e-6);
  if (file !== 'mp3') expect(execFileSync('soxi', ['-s', out], { encoding: 'utf8' }).trim()).toBe(String(frames));
});

test.each(['16', '24'] as const)(
  'FLAC of %s bit passes its own test and holds the samples of the WAV file',
  async (bits) => {
    const [flac, wav] = [await render({ file: 'flac', bits }), await render({ file: 'wav', bits })];
    execFileSync('flac', ['-t', '-s', '-w', flac.out]);
    expect(decodedHash(flac.out)).toBe(decodedHash(wav.out));
    expect(statSync(flac.out).size).toBeLessThan(statSync(wav.out).size);
  },
);

test('what it is stands in the file where the format has a place: bext with its time reference, comments, ID3', async () => {
  const span = { name: 'Refrain', startSeconds: 2.5, endSeconds: 4 };
  const why = 'thinner guitars, for the film';
  const { out } = await render({ why, tailSeconds: 0 }, { span, title: 'Cello' });
  // ffprobe calls originator, date and time by these names; the description gives way to the comment.
  expect(probe(out).tags).toMatchObject({
    encoded_by: 'Orvid',
    date: '2026-11-27',
    creation_time: '20:15:00',
    time_reference: String(2.5 * RATE),
    title: 'Lantern Ferry, Refrain, Cello',
    comment: why,
  });
  const bytes = readFileSync(out);
  const bext = bytes.indexOf('bext') + 8;
  expect(bytes.toString('utf8', bext, bext + 256).replace(/\0+$/, '')).toBe(`Lantern Ferry, Refrain, Cello: ${why}`);
  const flac = probe((await render({ why, file: 'flac', tailSeconds: 0 }, { span, title: 'Cello' })).out);
  expect(flac.tags).toMatchObject({
    title: 'Lantern Ferry, Refrain, Cello',
    album: 'Lantern Ferry',
    date: '2026-11-27',
  });
  expect(flac.tags.description ?? flac.tags.comment).toBe(why);
  const mp3 = probe((await render({ why: 'für später', file: 'mp3', tailSeconds: 0 }, { span, title: 'Cello' })).out);
  expect(mp3.tags).toMatchObject({
    title: 'Lantern Ferry, Refrain, Cello',
    album: 'Lantern Ferry',
    comment: 'für später',
  });
});

test('the same song gives the same bits again', async () => {
  for (const settings of [{ bits: '16' as const }, { file: 'flac' as const }, { file: 'mp3' as const }]) {
    const [first, second] = [await render(settings), await render(settings)];
    expect(readFileSync(first.out).equals(readFileSync(second.out))).toBe(true);
  }
});

test.each([-23, -16, -14])(
  'a limiter brings the mix to %d LUFS within 0.1 LU, below its ceiling, by ffmpeg’s meter',
  async (lufs) => {
    const target = { lufs, ceilingDbtp: -1, by: 'limiter' as const };
    const { out, integratedLufs } = await render({ bits: '24', loudness: target });
    const heard = loudnessOf(out);
    expect(Math.abs(heard.lufs - lufs)).toBeLessThanOrEqual(0.1);
    expect(Math.abs(integratedLufs! - lufs)).toBeLessThanOrEqual(0.1);
    expect(heard.peak).toBeLessThanOrEqual(-1);
  },
);

test('by gain alone: hit where peaks leave room; where they do not, the ceiling stands and it says what holds it back', async () => {
  const soft = await render({ loudness: { lufs: -30, ceilingDbtp: -1, by: 'gain' } });
  expect(Math.abs(loudnessOf(soft.out).lufs + 30)).toBeLessThanOrEqual(0.1);
  expect(soft.remark).toBeUndefined();
  const loud = await render({ loudness: { lufs: -8, ceilingDbtp: -1, by: 'gain' } });
  expect(loudnessOf(loud.out).peak).toBeCloseTo(-1.05, 0);
  expect(loud.remark).toContain('Its peaks hold it back');
});

test('stems at unity add up to the mix before the master’s chain within −120 dBFS, tails included', async () => {
  const sum = await samplesOf((await render({ bits: '32f' }, { what: 'before-master', throughMaster: false })).out);
  let loudest = 0;
  for (const what of stripsThatAddUp(song)) {
    const stem = await samplesOf((await render({ bits: '32f' }, { what, throughMaster: false })).out);
    expect(stem[0].length).toBe(sum[0].length);
    stem.forEach((side, c) => side.forEach((sample, n) => (sum[c][n] -= sample)));
  }
  for (const side of sum) for (const sample of side) loudest = Math.max(loudest, Math.abs(sample));
  expect(20 * Math.log10(loudest)).toBeLessThan(-120);
});

test('a tail rings out until it is 60 dB down; of a part nothing that comes after it is heard', async () => {
  const { out, frames } = await render({ bits: '32f', tailSeconds: 20 });
  expect(frames).toBeGreaterThan((SECONDS + 0.5) * RATE);
  expect(frames).toBeLessThan((SECONDS + 12) * RATE);
  const [left] = await samplesOf(out);
  const level = (from: number) => Math.hypot(...left.subarray(from, from + 2400));
  expect(20 * Math.log10(level(frames - 2400) / level(SECONDS * RATE - 2400))).toBeLessThan(-50);
  const dry = { ...song, buses: song.buses.map((band) => ({ ...band, chain: [] })) };
  const part = await render({ bits: '32f' }, { span: { name: 'Verse', startSeconds: 0, endSeconds: 2.5 } }, dry);
  expect(part.frames).toBeLessThan(2.6 * RATE);
  const short = await render({ tailSeconds: 0.2 });
  expect(short.frames).toBeLessThanOrEqual((SECONDS + 0.2) * RATE);
});

test('a strip may go through the master’s chain', async () => {
  const plain = await samplesOf(
    (await render({ bits: '32f', tailSeconds: 0 }, { what: 'Voice', throughMaster: false })).out,
  );
  const through = await samplesOf(
    (await render({ bits: '32f', tailSeconds: 0 }, { what: 'Voice', throughMaster: true })).out,
  );
  const power = (side: Float64Array) => side.reduce((sum, sample) => sum + sample * sample, 0);
  expect(10 * Math.log10(power(through[0]) / power(plain[0]))).toBeCloseTo(3, 0);
});
