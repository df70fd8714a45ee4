import fc from 'fast-check';
import { execFileSync } from 'node:child_process';
import { seededRandom } from '../formats';
import type { Grid } from '../song';
import {
  barAt,
  barsLater,
  barStart,
  findGrid,
  gridFrom,
  gridLines,
  metreAt,
  noteSeconds,
  ONSET_STEP_SECONDS,
  pacedGrid,
  plainGrid,
  quarterAt,
  readMidiTimes,
  RhythmListener,
  type Rhythm,
  secondsAt,
  snapped,
  SURE_FROM,
  tappedTempo,
  withMetreFrom,
  withTempoFrom,
  writePlace,
} from '.';

const SLOWING: Grid = {
  startSeconds: 0.5,
  tempos: [
    { quarter: 0, bpm: 120 },
    { quarter: 8, bpm: 60 },
  ],
  metres: [
    { bar: 1, beats: 4, unit: 4 },
    { bar: 3, beats: 6, unit: 8 },
  ],
};

test('places of a grid with two tempos and metres are those that are counted by hand', () => {
  // Bar 1 at 0.5 s, bar 2 at 2.5 s, bar 3 at 4.5 s; from there on a quarter lasts a second, and a bar of six eighths three.
  expect([1, 2, 3, 4, 5].map((bar) => secondsAt(SLOWING, barStart(SLOWING, bar)))).toEqual([0.5, 2.5, 4.5, 7.5, 10.5]);
  expect(barAt(SLOWING, quarterAt(SLOWING, 8))).toEqual({ bar: 4, beat: 2 });
  expect(writePlace(SLOWING, 1.5)).toBe('1.3');
  expect(writePlace(SLOWING, 8.25)).toBe('4.2+50');
  expect(barAt(SLOWING, quarterAt(SLOWING, -1.5)).bar).toBe(0);
  expect(snapped(SLOWING, 3.4, 'bar')).toBe(2.5);
  expect(snapped(SLOWING, 3.4, 'beat')).toBe(3.5);
  expect(snapped(SLOWING, 3.4, 'beat', 1)).toBe(4);
  expect(snapped(SLOWING, 3.4, 'quarter')).toBe(3.375);
  const beats = gridLines(SLOWING, 0, 8, 0.2);
  expect(beats.filter(({ bar }) => bar === 3).map(({ seconds }) => seconds)).toEqual([4.5, 5, 5.5, 6, 6.5, 7]);
  expect(gridLines(SLOWING, 0, 8, 1.5).map(({ seconds }) => seconds)).toEqual([0.5, 2.5, 4.5, 7.5]);
});

test('places and times are each other’s inverse, and snapping twice is snapping once (seed 9)', () => {
  const bpm = fc.double({ min: 20, max: 400, noNaN: true });
  const anyGrid = fc
    .tuple(
      bpm,
      fc.array(fc.tuple(fc.integer({ min: 2, max: 30 }), bpm), { maxLength: 4 }),
      fc.constantFrom([4, 4], [6, 8], [7, 8], [3, 4]),
    )
    .map(([first, others, [beats, unit]]) =>
      others.reduce((grid, [bar, next]) => withTempoFrom(grid, bar, next), plainGrid(first, 0.25, beats, unit as 4)),
    );
  fc.assert(
    fc.property(anyGrid, fc.double({ min: -10, max: 300, noNaN: true }), (grid, seconds) => {
      expect(secondsAt(grid, quarterAt(grid, seconds))).toBeCloseTo(seconds, 8);
      const once = snapped(grid, seconds, 'beat');
      expect(snapped(grid, once, 'beat')).toBeCloseTo(once, 8);
    }),
    { seed: 9 },
  );
});

test('a metre from a bar on keeps what lies before it', () => {
  const grid = withMetreFrom(plainGrid(120), 5, 3, 4);
  expect([4, 5, 6].map((bar) => barStart(grid, bar))).toEqual([12, 16, 19]);
});

test('taps give the line through them', () => {
  expect(tappedTempo([0, 0.5, 1, 1.5])).toBeCloseTo(120, 9);
  expect(tappedTempo([0, 0.52, 0.98, 1.5])).toBeCloseTo(121, 0);
  expect(tappedTempo([0, 0.5])).toBeNull();
});

/** A Standard MIDI File of format 0 (RP-001) with some meta events. */
function midi(events: readonly [delta: number, type: number, data: readonly number[]][], division = 480): Uint8Array {
  const varying = (value: number): number[] =>
    value < 128 ? [value] : [...varying(value >> 7).map((byte) => byte | 128), value & 127];
  const body = events.flatMap(([delta, type, data]) => [...varying(delta), 0xff, type, data.length, ...data]);
  const track = [...body, 0, 0xff, 0x2f, 0];
  const word = (value: number) => [value >> 24, value >> 16, value >> 8, value].map((byte) => byte & 255);
  const half = (value: number) => word(value).slice(2);
  const text = (value: string) => [...value].map((letter) => letter.charCodeAt(0));
  return Uint8Array.from([
    ...text('MThd'),
    ...word(6),
    ...half(0),
    ...half(1),
    ...half(division),
    ...text('MTrk'),
    ...word(track.length),
    ...track,
  ]);
}
const tempo = (us: number) => [(us >> 16) & 255, (us >> 8) & 255, us & 255];

test('a Standard MIDI File with three tempos, two metres and a marker is read exactly', () => {
  const { grid, parts } = readMidiTimes(
    midi([
      [0, 0x51, tempo(500000)],
      [0, 0x58, [4, 2, 24, 8]],
      [8 * 480, 0x51, tempo(625000)],
      [0, 0x06, [...'Refrain'].map((letter) => letter.charCodeAt(0))],
      [4 * 480, 0x58, [3, 2, 24, 8]],
      [6 * 480, 0x51, tempo(400000)],
    ]),
    'song.mid',
  );
  expect(grid).toEqual({
    startSeconds: 0,
    tempos: [
      { quarter: 0, bpm: 120 },
      { quarter: 8, bpm: 96 },
      { quarter: 18, bpm: 150 },
    ],
    metres: [
      { bar: 1, beats: 4, unit: 4 },
      { bar: 4, beats: 3, unit: 4 },
    ],
  });
  expect(parts).toEqual([{ name: 'Refrain', startSeconds: 4 }]);
});

test.each([
  ['is no MIDI file', Uint8Array.from([1, 2, 3, 4, 5, 6, 7, 8])],
  ['cut off', midi([[0, 0x51, tempo(500000)]]).slice(0, 30)],
  ['counts in frames', midi([], 0xe728)],
  ['has a metre of 4/64', midi([[0, 0x58, [4, 6, 24, 8]]])],
])('what %s is refused in words, by its name', (_, bytes) => {
  expect(() => readMidiTimes(bytes, 'x.mid')).toThrow(/“x.mid”/);
});

const rhythmOf = (samples: Float32Array, rateHz: number) => {
  const listener = new RhythmListener(rateHz);
  listener.push(samples, samples, samples.length);
  return listener.rhythm;
};

/** A loop of Debian's package sonic-pi-samples, CC0. */
function loop(name: string): { samples: Float32Array; seconds: number } {
  const raw = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-i', `/usr/share/sonic-pi/samples/${name}.flac`, '-ac', '1', '-ar', '44100', '-f', 'f32le', '-'],
    { maxBuffer: 1 << 26 },
  );
  const samples = new Float32Array(new Uint8Array(raw).buffer);
  return { samples, seconds: samples.length / 44100 };
}

// Their beats are a whole number of their length, counted by ear and from the number in the name of the set they belong to.
const BEATS: Record<string, number> = {
  loop_amen: 4,
  loop_amen_full: 16,
  loop_breakbeat: 4,
  loop_compus: 16,
  loop_garzul: 16,
  loop_electric: 4,
  loop_industrial: 2,
  loop_mehackit1: 4,
  loop_mehackit2: 4,
  loop_mika: 16,
  loop_perc1: 4,
  loop_safari: 16,
};

test('the tempo of drum loops is found within 0.5 % in at least ten of twelve; none is called sure whose tempo is not named', () => {
  const found = Object.entries(BEATS).map(([name, beats]) => {
    const { samples, seconds } = loop(name);
    const tempo = findGrid(rhythmOf(samples, 44100), seconds)!;
    const isRight = (bpm: number | null) => bpm !== null && Math.abs((bpm * seconds) / (60 * beats) - 1) < 0.005;
    return {
      name,
      isRight: isRight(tempo.bpm),
      isNamed: isRight(tempo.bpm) || isRight(tempo.otherBpm),
      sureness: tempo.sureness,
    };
  });
  expect(found.filter(({ isRight }) => isRight).length).toBeGreaterThanOrEqual(10);
  expect(found.filter(({ isNamed, sureness }) => !isNamed && sureness >= SURE_FROM)).toEqual([]);
  expect(found.filter(({ sureness }) => sureness >= SURE_FROM).length).toBeGreaterThanOrEqual(8);
});

test.each([
  'ambi_choir',
  'ambi_piano',
  'guit_em9',
  'guit_e_slide',
  'ambi_lunar_land',
  'ambi_dark_woosh',
  'vinyl_hiss',
  'bass_woodsy_c',
])('of %s no tempo is sure', (name) => {
  const { samples, seconds } = loop(name);
  expect(findGrid(rhythmOf(samples, 44100), seconds)?.sureness ?? 0).toBeLessThan(SURE_FROM);
});

/** Strengths of onsets at some times, with what else begins by chance. */
function strengthsOf(times: readonly number[], seconds: number): Rhythm {
  const random = seededRandom(3);
  const values = Float64Array.from({ length: Math.round(seconds / ONSET_STEP_SECONDS) }, () => 4 * random() ** 8);
  times.forEach((at, i) => {
    const place = Math.round(at / ONSET_STEP_SECONDS);
    for (let n = 0; n < 3; n++) if (place + n < values.length) values[place + n] += (i % 2 === 0 ? 60 : 36) / (n + 1);
  });
  return { strengths: values, lows: new Float64Array(values.length), harmony: [] };
}

test.each([84.4, 93.7, 118.25, 151])('%f beats a minute over three minutes are found within 0.02 %%', (bpm) => {
  const times = Array.from({ length: Math.floor((180 * bpm) / 60) * 2 }, (_, i) => 0.31 + (i * 30) / bpm);
  const found = findGrid(strengthsOf(times, 180), 180)!;
  expect(Math.abs(found.bpm / bpm - 1)).toBeLessThan(0.0002);
  expect(found.sureness).toBeGreaterThan(SURE_FROM);
  const beat = 60 / bpm;
  const off = ((((found.barSeconds - 0.31) % beat) + beat) % beat) / beat;
  expect(Math.min(off, 1 - off, Math.abs(off - 0.5))).toBeLessThan(0.03);
});

test('beats that are played faster and slower are followed: tempos lead through them within 40 ms', () => {
  // As a band without a click does: 3 % to and fro in a minute.
  const beats = [0.4];
  for (let i = 0; beats.at(-1)! < 150; i++)
    beats.push(beats.at(-1)! + 60 / (100 * (1 + 0.03 * Math.sin(beats.at(-1)! / 9))));
  const found = findGrid(strengthsOf(beats, 150), 150)!;
  expect(found.sureness).toBeGreaterThan(SURE_FROM);
  expect(found.tempos.length).toBeGreaterThan(4);
  expect(found.tempos.length).toBeLessThan(30);
  const grid = gridFrom(found);
  const lines = Array.from({ length: beats.length - 8 }, (_, quarter) => secondsAt(grid, quarter));
  const off = lines.map((line) => Math.min(...beats.map((at) => Math.abs(at - line))));
  expect(Math.max(...off)).toBeLessThan(0.04);
});

test.each([3, 4] as const)('bars of %i beats are told by their lows and their chords', (barBeats) => {
  const beat = 60 / 108;
  const [first, seconds] = [0.3 + beat, 90];
  const times = Array.from({ length: Math.floor((seconds - 0.4) / beat) * 2 }, (_, i) => 0.3 + (i * beat) / 2);
  const rhythm = strengthsOf(times, seconds);
  // A beat of upbeat; then each bar has its foot and its chord, one of four.
  const lows = new Float64Array(rhythm.strengths.length);
  for (let at = first; at < seconds; at += barBeats * beat) {
    lows[Math.round(at / ONSET_STEP_SECONDS)] = 20;
    (rhythm.strengths as Float64Array)[Math.round(at / ONSET_STEP_SECONDS)] += 40;
  }
  const harmony = Array.from({ length: Math.floor(seconds / 0.05) }, (_, i) => {
    const bar = Math.max(0, Math.floor((i * 0.05 - first) / (barBeats * beat)));
    return Float64Array.from({ length: 12 }, (_none, semitone) =>
      [0, 4, 7].some((step) => (step + [0, 5, 7, 9][bar % 4]) % 12 === semitone) ? 0.5 : 0.05,
    );
  });
  const found = findGrid({ ...rhythm, lows, harmony }, seconds)!;
  expect(found.beats).toBe(barBeats);
  expect(Math.abs(found.barSeconds - first)).toBeLessThan(0.015);
  expect(found.barSureness).toBeGreaterThan(0.8);
  expect(gridFrom(found)).toMatchObject({
    tempos: [{ quarter: 0, bpm: 108 }],
    metres: [{ bar: 1, beats: barBeats, unit: 4 }],
  });
});

test('at double the tempo tempos and metres stay at their times, and half of it is the grid as it was', () => {
  const double = pacedGrid(SLOWING, 2);
  expect(double.tempos).toEqual([
    { quarter: 0, bpm: 240 },
    { quarter: 16, bpm: 120 },
  ]);
  // From bar 3 at 4.5 s on, six eighths.
  expect(barAt(double, quarterAt(double, 4.5)).bar).toBe(5);
  expect(metreAt(double, 5)).toMatchObject({ beats: 6, unit: 8 });
  expect(pacedGrid(double, 0.5)).toEqual(SLOWING);
});

test('bars a beat later keep every beat where it is, tempos too', () => {
  const beats = (passage: Grid) => gridLines(passage, 1, 12, 0.2).map(({ seconds }) => Math.round(1e6 * seconds));
  const first: Grid = { ...SLOWING, metres: [SLOWING.metres[0]] };
  let grid = first;
  for (let i = 1; i <= 4; i++) {
    grid = barsLater(grid);
    expect(beats(grid)).toEqual(beats(first));
    expect(barAt(grid, quarterAt(grid, 4.5)).beat).toBeCloseTo(i === 4 ? 1 : 5 - i, 6);
  }
});

test('what is played freely has no sure tempo', () => {
  const random = seededRandom(8);
  const times = [0];
  for (let beat = 0.6; times.at(-1)! < 120; beat *= 1 + 0.25 * (random() - 0.5)) {
    beat = Math.min(1.1, Math.max(0.35, beat));
    times.push(times.at(-1)! + beat * (0.8 + 0.4 * random()));
  }
  expect(findGrid(strengthsOf(times, 120), 120)!.sureness).toBeLessThan(SURE_FROM);
});

test.each([
  ['1/4', 0.5],
  ['1/8', 0.25],
  ['1/8.', 0.375],
  ['1/4t', 1 / 3],
  ['3/16', 0.375],
  ['1/0', null],
  ['350 ms', null],
])('“%s” at 120 lasts %s seconds', (text, seconds) => {
  if (seconds === null) expect(noteSeconds(text, plainGrid(120))).toBeNull();
  else expect(noteSeconds(text, plainGrid(120))).toBeCloseTo(seconds, 9);
});
