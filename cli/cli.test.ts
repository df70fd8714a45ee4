import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { wavHeader, PcmEncoder, seededRandom } from '@/core/formats';
import { emptySong, newTrack, type Song } from '@/core/song';
import { version } from '@/package.json';
import { ownDataFolder } from '@/server/testing/data-folder';

const folder = ownDataFolder();
const at = (name: string) => path.join(folder, name);

/** Runs the real command as it was last bundled, from the folder of the test. */
function orvid(...args: string[]) {
  return run('build/cli.mjs', args);
}
function run(program: string, args: string[], env: Record<string, string> = {}) {
  const result = spawnSync(process.execPath, [program, ...args], {
    cwd: path.resolve('.'),
    env: { ...process.env, INIT_CWD: folder, ...env },
    encoding: 'utf8',
  });
  return { code: result.status, out: result.stdout, err: result.stderr };
}
const csv = (text: string) =>
  text
    .trim()
    .split('\n')
    .slice(1)
    .map((line) => line.split(',').map(Number));

function writeWavFile(name: string, channels: Float64Array[], rateHz = 48000): void {
  const header = wavHeader({ channels: channels.length, rateHz, format: '32f', frames: channels[0].length });
  writeFileSync(
    at(name),
    Buffer.concat([header, new PcmEncoder(channels.length, '32f').encode(channels, channels[0].length)]),
  );
}
/** The samples of a 32-bit float WAV that this program wrote. */
function readFloats(name: string): Float32Array {
  const bytes = readFileSync(at(name));
  const start = bytes.indexOf('data') + 8;
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset + start, bytes.byteOffset + bytes.length));
}

const EQ = {
  format: 'orvid.eq',
  version: 1,
  outputGainDb: -2,
  bands: [
    { type: 'high-pass', frequencyHz: 120, order: 5 },
    { type: 'bell', frequencyHz: 310, gainDb: -4, q: 3.5 },
    { type: 'low-shelf', frequencyHz: 200, gainDb: 3 },
    { type: 'notch', frequencyHz: 50, q: 20 },
    { type: 'bell', frequencyHz: 15000, gainDb: 6, q: 1 },
    { type: 'bell', frequencyHz: 500, gainDb: 9, enabled: false },
    { type: 'high-shelf', frequencyHz: 9000, gainDb: 2.5 },
    { type: 'low-pass', frequencyHz: 18000, order: 2 },
  ],
};

beforeAll(() => {
  // Bundles it where it is not as its sources are.
  expect(run('scripts/orvid.mjs', ['--help'])).toMatchObject({ code: 0 });
  writeFileSync(at('a.orvid-eq.json'), JSON.stringify(EQ));
  const random = seededRandom(1);
  const noise = () => Float64Array.from({ length: 30000 }, () => Math.fround(random() - 0.5));
  writeWavFile('in.wav', [noise(), noise()]);
});

test('apply equals scipy.signal.sosfilt with the printed sections within −120 dBFS', () => {
  const sections = orvid('sections', 'a.orvid-eq.json', '--rate', '48000');
  expect(sections.out.split('\n')[0]).toBe('b0,b1,b2,a0,a1,a2');
  writeFileSync(at('sections.csv'), sections.out);
  expect(orvid('apply', 'a.orvid-eq.json', 'in.wav', 'out.wav')).toMatchObject({ code: 0, out: '' });
  expect(statSync(at('out.wav')).size).toBe(statSync(at('in.wav')).size);
  const apart = execFileSync(
    '/usr/bin/python3',
    ['cli/check_apply.py', at('sections.csv'), at('in.wav'), at('out.wav')],
    { encoding: 'utf8' },
  );
  expect(Number(apart)).toBeLessThan(-120);
});

test('response is that of the sections, and the impulse that of the response', () => {
  const rows = csv(orvid('response', 'a.orvid-eq.json', '--rate', '48000', '--freqs', '60,310,1000,12000').out);
  const sections = csv(orvid('sections', 'a.orvid-eq.json', '--rate', '48000').out);
  expect(orvid('impulse', 'a.orvid-eq.json', 'impulse.wav', '--rate', '48000', '--length', '131072').code).toBe(0);
  const impulse = readFloats('impulse.wav');
  expect(impulse).toHaveLength(131072);
  for (const [hz, magnitudeDb, phaseDeg] of rows) {
    const w = (2 * Math.PI * hz) / 48000;
    let [re, im] = [0, 0];
    impulse.forEach((value, n) => {
      re += value * Math.cos(w * n);
      im -= value * Math.sin(w * n);
    });
    expect(10 * Math.log10(re * re + im * im)).toBeCloseTo(magnitudeDb, 3);
    expect(Math.cos(Math.atan2(im, re) - (phaseDeg * Math.PI) / 180)).toBeCloseTo(1, 5);
  }
  expect(sections.every(([, , , a0]) => a0 === 1)).toBe(true);
});

test('points run from 20 Hz to 20 kHz, evenly on a logarithmic axis', () => {
  const rows = csv(orvid('response', 'a.orvid-eq.json', '--rate', '96000', '--points', '4').out);
  expect(rows.map(([hz]) => Math.round(hz))).toEqual([20, 200, 2000, 20000]);
});

test('a frequency that is too high for the rate is moved and reported', () => {
  writeFileSync(at('high.json'), JSON.stringify({ ...EQ, bands: [{ type: 'bell', frequencyHz: 30000, gainDb: 3 }] }));
  const result = orvid('sections', 'high.json', '--rate', '44100');
  expect(result).toMatchObject({ code: 0 });
  expect(result.err).toContain('bands[0]: 30000 Hz is too near to half of 44100 Hz');
});

test.each([
  ['16', 2],
  ['24', 3],
] as const)('apply writes %s bit with the length, rate and channels of the input', (bits, bytes) => {
  expect(orvid('apply', 'a.orvid-eq.json', 'in.wav', `out${bits}.wav`, '--bits', bits).code).toBe(0);
  const file = readFileSync(at(`out${bits}.wav`));
  expect(file.length - file.indexOf('data') - 8).toBe(30000 * 2 * bytes);
});

const writeSideEqualizer = () =>
  writeFileSync(
    at('side.json'),
    JSON.stringify({
      ...EQ,
      bands: [
        { type: 'bell', frequencyHz: 1000, gainDb: 6, channel: 'side' },
        { type: 'bell', frequencyHz: 4000, gainDb: -6 },
      ],
    }),
  );

test('bands on one channel: each path by itself, and applied where they act', () => {
  writeSideEqualizer();
  const level = (channel: string, hz: number) =>
    csv(orvid('response', 'side.json', '--rate', '48000', '--freqs', String(hz), '--channel', channel).out)[0][1];
  expect(level('stereo', 1000)).toBeCloseTo(level('mid', 1000), 9);
  expect(level('side', 1000) - level('mid', 1000)).toBeCloseTo(6, 2);
  expect(level('side', 4000)).toBeLessThan(-5);
  expect(orvid('sections', 'side.json', '--rate', '48000', '--channel', 'side').out.split('\n').length).toBe(
    orvid('sections', 'side.json', '--rate', '48000').out.split('\n').length + 1,
  );
  // The same on both sides is all mid, the opposite all side.
  const sine = Float64Array.from({ length: 24000 }, (_, n) => 0.25 * Math.sin((2 * Math.PI * 1000 * n) / 48000));
  const peakOf = (right: Float64Array) => {
    writeWavFile('both.wav', [sine, right]);
    expect(orvid('apply', 'side.json', 'both.wav', 'both-out.wav').code).toBe(0);
    return Math.max(...readFloats('both-out.wav').slice(24000));
  };
  const [mid, side] = [peakOf(sine), peakOf(sine.map((value) => -value))];
  expect(20 * Math.log10(side / mid)).toBeCloseTo(6, 2);
});

test('linear phase: the same length and level as minimum phase, no delay; the impulse lies in its middle', () => {
  const bands = [{ type: 'bell', frequencyHz: 1000, gainDb: 6, q: 1 }];
  writeFileSync(at('linear.json'), JSON.stringify({ ...EQ, outputGainDb: 0, bands, phase: 'linear' }));
  writeFileSync(at('minimum.json'), JSON.stringify({ ...EQ, outputGainDb: 0, bands }));
  const click = new Float64Array(48000);
  click[24000] = 0.5;
  writeWavFile('click.wav', [click]);
  const result = orvid('apply', 'linear.json', 'click.wav', 'linear.wav');
  expect(result).toMatchObject({ code: 0 });
  expect(result.err).toMatch(/Linear phase: \d+ ms of latency, taken out again/);
  const out = readFloats('linear.wav');
  expect(out).toHaveLength(48000);
  expect(out.indexOf(Math.max(...out))).toBe(24000);
  for (let n = 1; n < 2000; n += 13) expect(out[24000 - n]).toBeCloseTo(out[24000 + n], 6);
  const [[, level, phase, delay]] = csv(orvid('response', 'linear.json', '--rate', '48000', '--freqs', '1000').out);
  expect(level).toBeCloseTo(6, 1);
  expect([phase, delay]).toEqual([0, 0]);
  expect(orvid('sections', 'linear.json', '--rate', '48000').err).toContain('has no sections');
  expect(orvid('impulse', 'linear.json', 'i.wav', '--rate', '48000', '--length', '100').err).toContain(
    'needs at least',
  );
  expect(orvid('impulse', 'linear.json', 'i.wav', '--rate', '48000', '--length', '32768').code).toBe(0);
  const impulse = readFloats('i.wav');
  expect(impulse.indexOf(Math.max(...impulse))).toBe(16384);
});

test('it tells its version and its commands', () => {
  expect(orvid('--version')).toEqual({ code: 0, out: `${version}\n`, err: '' });
  expect(orvid('--help').out).toMatch(/^ +render \[options\]/m);
});

test.each([
  [2, ['apply', 'a.orvid-eq.json'], 'missing required argument'],
  [2, ['response', 'a.orvid-eq.json'], '--rate'],
  [2, ['response', 'a.orvid-eq.json', '--rate', '48000'], '--freqs or --points'],
  [2, ['sections', 'a.orvid-eq.json', '--rate', 'fast'], 'expected a number'],
  [2, ['dance'], 'unknown command'],
  [1, ['sections', 'none.json', '--rate', '48000'], 'none.json: the file cannot be read'],
  [1, ['response', 'a.orvid-eq.json', '--rate', '48000', '--freqs', '30000'], '30000 Hz lies above half'],
  [1, ['apply', 'side.json', 'mono.wav', 'x.wav'], 'bands[0].channel: “side” needs two channels, and mono.wav is mono'],
  [1, ['apply', 'a.orvid-eq.json', 'none.wav', 'x.wav'], 'none.wav: there is no such file'],
  [1, ['apply', 'a.orvid-eq.json', 'a.orvid-eq.json', 'x.wav'], 'it is not a WAV, AIFF, FLAC, MP3'],
  [1, ['apply', 'a.orvid-eq.json', 'in.wav', 'nowhere/x.wav'], 'there is no such file or folder'],
  [1, ['render', 'no-such-song', 'x.wav'], 'no song “no-such-song”'],
] as const)('exit code %i, and it says why: %j', (code, args, message) => {
  writeSideEqualizer();
  writeWavFile('mono.wav', [new Float64Array(100)]);
  const result = orvid(...args);
  expect(result).toMatchObject({ code, out: '' });
  expect(result.err).toContain(message);
  expect(existsSync(at('x.wav'))).toBe(false);
});

test('what fails leaves the file that was there as it was, and nothing beside it', () => {
  writeFileSync(at('keep.wav'), 'precious');
  writeSideEqualizer();
  writeWavFile('mono.wav', [new Float64Array(100)]);
  expect(orvid('apply', 'side.json', 'mono.wav', 'keep.wav').code).toBe(1);
  expect(readFileSync(at('keep.wav'), 'utf8')).toBe('precious');
  expect(readdirSync(folder).filter((name) => name.startsWith('.keep'))).toEqual([]);
});

test('analyse: a sine of half of full scale, in text and in JSON', () => {
  writeWavFile('sine.wav', [
    Float64Array.from({ length: 96000 }, (_, n) => 0.5 * Math.sin((2 * Math.PI * 1000 * n) / 48000)),
  ]);
  const { files } = JSON.parse(orvid('analyse', 'sine.wav', '--json').out);
  expect(files[0]).toMatchObject({ file: 'sine.wav', rateHz: 48000, channels: 1, lengthSeconds: 2 });
  expect(files[0].samplePeakDbfs).toBeCloseTo(-6.02, 2);
  expect(files[0].crestDb).toBeCloseTo(3.01, 2);
  const third = files[0].thirdOctaves.find((band: { nominalHz: number }) => band.nominalHz === 1000);
  expect(third.levelDb).toBeCloseTo(-6.02, 1);
  expect(orvid('analyse', 'sine.wav').out).toContain('sample peak -6.02 dBFS');
});

test('analyse: the documented fields; several files are held against each other; silence has defined figures', () => {
  const tone = (hz: number, level: number) =>
    Float64Array.from({ length: 240000 }, (_, n) => level * Math.sin((2 * Math.PI * hz * n) / 48000));
  writeWavFile('low.wav', [tone(80, 0.2)]);
  writeWavFile('lower.wav', [tone(84, 0.15)]);
  writeWavFile('high.wav', [tone(4000, 0.2)]);
  writeWavFile('silent.wav', [new Float64Array(96000)]);
  const { files, overlaps, clearances } = JSON.parse(
    orvid('analyse', 'low.wav', 'lower.wav', 'high.wav', 'silent.wav', '--json').out,
  );
  for (const field of [
    'integratedLufs',
    'loudnessRangeLu',
    'truePeakDbtp',
    'samplePeakDbfs',
    'crestDb',
    'thirdOctaves',
  ])
    expect(files[0]).toHaveProperty(field);
  expect(files[0]).toMatchObject({ hum: null, resonances: [], suspects: [] });
  expect(files[0].truePeakDbtp).toBeCloseTo(-13.98, 1);
  expect(files[3]).toMatchObject({ integratedLufs: null, loudnessRangeLu: 0, rumbleShare: 0, truePeakDbtp: -150 });
  expect(overlaps).toHaveLength(1);
  expect([overlaps[0].quieter, overlaps[0].louder]).toEqual(['lower.wav', 'low.wav']);
  expect(overlaps[0].lowHz).toBeLessThan(84);
  expect(overlaps[0].highHz).toBeGreaterThan(80);
  const clearanceOf = (file: string) =>
    clearances.find((clearance: { file: string }) => clearance.file === file)?.clearanceDb;
  expect(clearanceOf('high.wav')).toBeGreaterThan(20);
  expect(clearanceOf('lower.wav')).toBeLessThan(0);
  expect(clearanceOf('silent.wav')).toBeUndefined();
  const text = orvid('analyse', 'low.wav', 'lower.wav').out;
  expect(text).toContain('lower.wav under low.wav');
  expect(text).toMatch(/integrated -\d+\.\d\d LUFS/);
});

/** A song on disk: the recording in.wav twice, one of them turned and lower. */
function songFile(): Song {
  const recording = { audioId: 'ab'.repeat(32), channels: 2 as const, lengthFrames: 30000 };
  const tracks = [
    newTrack(recording, { id: 'a', name: 'Left one', ink: 0 }),
    { ...newTrack(recording, { id: 'b', name: 'Other: two', ink: 1 }), gainDb: -6, polarityInverted: true },
  ];
  return { ...emptySong('Disk'), tracks };
}

test('render: a song beside its audio, in part, and its stems, which add up to the mix', () => {
  mkdirSync(at('song'), { recursive: true });
  writeFileSync(at('song/in.wav'), readFileSync(at('in.wav')));
  writeFileSync(
    at('song/s.orvid.json'),
    JSON.stringify({ format: 'orvid.song-file', version: 1, song: songFile(), audio: { ['ab'.repeat(32)]: 'in.wav' } }),
  );
  expect(orvid('render', 'song/s.orvid.json', 'mix.wav', '--stems', 'stems')).toMatchObject({ code: 0, err: '' });
  const source = readFloats('in.wav');
  const mix = readFloats('mix.wav');
  const factor = 1 - 10 ** (-6 / 20);
  expect(Math.max(...mix.map((value, n) => Math.abs(value - source[n] * factor)))).toBeLessThan(1e-7);
  expect(readdirSync(at('stems'))).toEqual(['01-Left-one.wav', '02-Other-two.wav']);
  const stems = readdirSync(at('stems')).map((name) => readFloats(`stems/${name}`));
  expect(Math.max(...mix.map((value, n) => Math.abs(value - stems[0][n] - stems[1][n])))).toBeLessThan(1e-7);

  expect(orvid('render', 'song/s.orvid.json', 'part.wav', '--from', '0.1', '--to', '0.2').code).toBe(0);
  expect(readFloats('part.wav')).toEqual(mix.slice(2 * 4800, 2 * 9600));
  expect(orvid('render', 'song/s.orvid.json', 'x.wav', '--from', '9').err).toContain('nothing between');
});

test.each([
  ['version: expected 1, found 7', { version: 7 }],
  ['must be a plain file name', { audio: { ['ab'.repeat(32)]: '../in.wav' } }],
  ['is not listed', { audio: {} }],
  ['song.tracks', { song: { ...songFile(), tracks: 3 } }],
])('a song file is refused with its reason: %s', (reason, changes) => {
  const whole = { format: 'orvid.song-file', version: 1, song: songFile(), audio: { ['ab'.repeat(32)]: 'in.wav' } };
  writeFileSync(at('bad.orvid.json'), JSON.stringify({ ...whole, ...changes }));
  expect(orvid('render', 'bad.orvid.json', 'x.wav')).toMatchObject({ code: 1, err: expect.stringContaining(reason) });
});

test('a song of recordings: made, listed, packed, unpacked beside itself, told in words, shown to the client', () => {
  const tone = (hz: number) => [Float64Array.from({ length: 48000 }, (_, n) => 0.2 * Math.sin((n * hz) / 7639))];
  writeWavFile('Track 10.wav', tone(300));
  writeWavFile('Track 9.wav', tone(200));
  const made = orvid('new', 'Two tones', at('Track 10.wav'), at('Track 9.wav'));
  const id = made.out.trim();
  expect(id).toMatch(/^[\w-]{12}$/);
  const [line] = JSON.parse(orvid('songs', '--json').out) as { id: string; tracks: number; state: string }[];
  expect(line).toMatchObject({ id, tracks: 2, state: 'well' });
  expect(orvid('pack', id, 'tones.orvid.zip').code).toBe(0);
  const second = orvid('unpack', 'tones.orvid.zip').out.trim();
  expect(second).not.toBe(id);
  const sheet = orvid('recall', second).out;
  // In the order of their names, as people count.
  expect(sheet.indexOf('## Track 9')).toBeLessThan(sheet.indexOf('## Track 10'));
  expect(orvid('recall', second, 'sheet.csv', '--format', 'csv').code).toBe(0);
  expect(readFileSync(at('sheet.csv'), 'utf8')).toContain('Track 10,track');
  expect(orvid('proof', second, 'proof.html', '--tracks', 'Track 9', '--notes', 'hear').code).toBe(0);
  expect(readFileSync(at('proof.html'), 'utf8')).toContain('data-sound="master before"');
  expect(orvid('proof', second, 'x.html', '--tracks', 'nobody')).toMatchObject({ code: 1 });
  expect(orvid('unpack', 'sheet.csv')).toMatchObject({ code: 1, err: expect.stringContaining('zip') });
  expect(orvid('new', 'None', at('sheet.csv')).code).toBe(1);
  expect(orvid('new', 'Odd', at('Track 9.wav'), '--rate', '12345').code).toBe(2);
});

test('a song has the rate of its recordings, unless another one is asked for', () => {
  writeWavFile('Old.wav', [Float64Array.from({ length: 4410 }, (_, n) => 0.2 * Math.sin(n / 20))], 44100);
  const rateOf = (...options: string[]) => {
    const id = orvid('new', 'Old', at('Old.wav'), ...options).out.trim();
    expect(orvid('render', id, 'old.wav').code).toBe(0);
    return Number(execFileSync('soxi', ['-r', at('old.wav')]));
  };
  expect(rateOf()).toBe(44100);
  expect(rateOf('--rate', '96000')).toBe(96000);
});

test('a song is made where temporary files lie on another disk; what was read before is not read again; channels of a file are tracks', () => {
  const elsewhere = (...args: string[]) => run('build/cli.mjs', args, { TMPDIR: '/dev/shm' });
  expect(statSync('/dev/shm').dev).not.toBe(statSync(folder).dev);
  const tones = [210, 330, 470].map((hz) => Float64Array.from({ length: 24000 }, (_, n) => Math.sin((n * hz) / 7639)));
  writeWavFile('Kit.wav', tones);
  writeWavFile('Pair.wav', tones.slice(1));
  const pages = path.join(folder, 'audio', 'pages');
  const written = () => readdirSync(pages).map((name) => [name, statSync(path.join(pages, name)).ino]);
  const before = written();
  const first = elsewhere('new', 'Kit', at('Pair.wav'), at('Kit.wav'));
  expect(first).toMatchObject({ code: 0, err: '' });
  const now = written();
  expect(now).toHaveLength(before.length + 4);
  const sheet = orvid('recall', first.out.trim()).out;
  const places = ['## Kit 1', '## Kit 2', '## Kit 3', '## Pair'].map((title) => sheet.indexOf(title));
  expect(places).toEqual([...places].sort((a, b) => a - b));
  expect(places[0]).toBeGreaterThan(0);
  expect(elsewhere('new', 'Kit again', at('Kit.wav'), at('Pair.wav'))).toMatchObject({ code: 0, err: '' });
  expect(written()).toEqual(now);
  expect(readdirSync(path.join(folder, 'incoming'))).toEqual([]);
  const many = Array.from({ length: 201 }, () => at('Kit.wav'));
  expect(orvid('new', 'Many', ...many)).toMatchObject({ code: 1, err: expect.stringContaining('at most 200 tracks') });
});

test('files of one session begin where they were recorded', () => {
  const tone = (name: string, frame: number) =>
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', `sine=${300 + frame / 100}:r=48000:d=0.5`],
      ...['-write_bext', '1', '-metadata', `time_reference=${frame}`, at(name)],
    ]);
  tone('First.wav', 480000);
  tone('Later.wav', 480000 + 48000 * 1.5);
  const id = orvid('new', 'Session', at('First.wav'), at('Later.wav')).out.trim();
  const [line] = (JSON.parse(orvid('songs', '--json').out) as { id: string; lengthSeconds: number }[]).filter(
    (song) => song.id === id,
  );
  // A second and a half of silence, then half a second of sound.
  expect(line.lengthSeconds).toBeCloseTo(2, 6);
});

test('sections that a program has written become an equalizer file; what is none is refused', () => {
  writeFileSync(at('s.csv'), orvid('sections', 'a.orvid-eq.json', '--rate', '48000').out);
  const { out, err } = orvid('fit', 's.csv', '--rate', '48000');
  expect((JSON.parse(out) as { bands: unknown[] }).bands).toHaveLength(7);
  expect(Number(/within ([\d.]+) dB/.exec(err)![1])).toBeLessThan(0.2);
  writeFileSync(at('t.csv'), '1,2,3');
  expect(orvid('fit', 't.csv', '--rate', '48000')).toMatchObject({ code: 1, err: expect.stringContaining('line 1') });
});
