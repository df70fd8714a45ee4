import { firstEqualizer, emptySong, newBandSettings, newTrack } from '../song';
import { compileSong } from './compile';
import { Engine } from './engine';
import { Player } from './player';
import type { SampleSource } from './source';

const RATE = 48000;
const BLOCK = 128;

/** A track of some samples on the left, and what plays it. */
function setUp(sample: (n: number) => number, lengthFrames = RATE * 10, has?: SampleSource['has']) {
  const source: SampleSource = {
    channels: 1,
    has,
    read: (frame, count, left) => {
      for (let n = 0; n < count; n++) left[n] = frame + n >= 0 ? sample(frame + n) : 0;
    },
  };
  const engine = new Engine(RATE, () => source);
  const track = newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames }, { id: 't', name: 't', ink: 0 });
  engine.setSong(compileSong({ ...emptySong('Test'), tracks: [{ ...track, pan: -1 }] }));
  return { engine, player: new Player(engine) };
}

const playing = (sample: (n: number) => number): Player => setUp(sample).player;

/** The greatest difference from what is wanted, from frame 400 on, where the fade is over. */
const deviation = (out: number[], wanted: (n: number) => number) =>
  out.reduce((most, value, n) => (n < 400 ? most : Math.max(most, Math.abs(value - wanted(n)))), 0);

/** What is heard on the left, in blocks as the browser asks for them. */
function heard(player: Player, frames: number): number[] {
  const out: number[] = [];
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  while (out.length < frames) {
    player.process(BLOCK, left, right);
    out.push(...left);
  }
  return out;
}
const greatestStep = (samples: number[]) =>
  samples.reduce((most, value, n) => (n === 0 ? 0 : Math.max(most, Math.abs(value - samples[n - 1]))), 0);

test('it is silent and at rest until it plays', () => {
  const player = playing(() => 0.5);
  expect(heard(player, 1024).every((value) => value === 0)).toBe(true);
  expect(player.isResting).toBe(true);
  expect(player.position).toBe(0);
});

test('it plays every frame once, in order, after its fade', () => {
  const player = playing((n) => n / 1e6);
  player.play();
  const out = heard(player, 4096);
  expect(deviation(out, (n) => n / 1e6)).toBeLessThan(1e-8);
  expect(player.position).toBe(4096);
});

test('start, stop and seek in a constant signal make no step', () => {
  const player = playing(() => 0.5);
  player.play();
  const out = heard(player, 2048);
  player.seek(RATE);
  out.push(...heard(player, 4096));
  expect(player.position).toBeGreaterThan(RATE);
  player.stop();
  out.push(...heard(player, 2048));
  // A raised cosine over 6 ms of half of full scale has its steepest place at 0.5·π/2/288 a frame.
  expect(greatestStep(out)).toBeLessThan((0.5 * Math.PI) / 2 / 288 + 1e-4);
  expect(out[out.length - 1]).toBe(0);
  expect(Math.max(...out)).toBeCloseTo(0.5, 6);
});

test('a seek while stopped takes its place at once', () => {
  const player = playing((n) => n / 1e6);
  player.seek(5000);
  expect(player.position).toBe(5000);
  player.play();
  expect(heard(player, 1024)[1000]).toBeCloseTo(6000 / 1e6, 6);
});

describe('where samples are on their way', () => {
  /** A constant, of which what lies behind a frame arrives later. */
  function arriving(fromFrame: number) {
    const arrived = { is: false };
    const has = (frame: number, count: number) => arrived.is || frame + count <= fromFrame;
    return { ...setUp(() => 0.5, RATE * 10, has), arrived };
  }

  test('a seek waits until all of them are there, and then plays from where it was meant to', () => {
    const { player, engine, arrived } = arriving(RATE);
    player.play();
    heard(player, 4096);
    player.seek(2 * RATE);
    expect(
      heard(player, 9600)
        .slice(400)
        .every((value) => value === 0),
    ).toBe(true);
    expect(player.position).toBe(2 * RATE);
    arrived.is = true;
    const out = heard(player, 9600);
    expect(greatestStep(out)).toBeLessThan(0.01);
    expect(deviation(out, () => 0.5)).toBe(0);
    expect(player.position).toBe(2 * RATE + out.length);
    expect(engine.lateCount).toBe(0);
  });

  test('so does a start; what is not there after half a second is left out, and counts as late after another', () => {
    const { player, engine } = arriving(0);
    player.play();
    heard(player, 23_900);
    expect(player.position).toBe(0);
    heard(player, 24_000);
    expect(player.position).toBeGreaterThan(23_700);
    expect(engine.lateCount).toBe(0);
    heard(player, 1000);
    expect(engine.lateCount).toBe(1);
    // What never comes is waited for once.
    player.seek(5 * RATE);
    heard(player, 4096);
    expect(player.position).toBeGreaterThan(5 * RATE + 3000);
  });

  test('a stop ends the waiting, and the next start plays at once where they have come', () => {
    const { player, arrived } = arriving(0);
    player.play();
    heard(player, 4096);
    player.stop();
    heard(player, RATE);
    expect(player.isResting).toBe(true);
    arrived.is = true;
    player.play();
    expect(deviation(heard(player, 1024), () => 0.5)).toBe(0);
  });
});

test('a loop keeps its exact length, and its end flows into what lies before its start', () => {
  const loop = { start: 4800, end: 9600 };
  // A tone that fits the loop a whole number of times: a seamless loop of it is the tone itself.
  const tone = (n: number) => 0.5 * Math.sin((2 * Math.PI * 10 * n) / (loop.end - loop.start));
  const player = playing(tone);
  player.setLoop(loop);
  player.seek(loop.start);
  player.play();
  const out = heard(player, 4 * 4800);
  expect(deviation(out, (n) => tone(loop.start + n))).toBeLessThan(1e-6);
  expect(player.position).toBeGreaterThanOrEqual(loop.start);
  expect(player.position).toBeLessThan(loop.end);
});

test('where the waveform does not fit, the seam is blended and not stepped', () => {
  const loop = { start: 4800, end: 4800 + 7013 };
  const player = playing((n) => 0.5 * Math.sin((2 * Math.PI * 100 * n) / RATE));
  player.setLoop(loop);
  player.seek(loop.start);
  player.play();
  const steepest = (0.5 * 2 * Math.PI * 100) / RATE;
  expect(greatestStep(heard(player, 30000))).toBeLessThan(steepest * 1.6);
});

test('where sound takes a while to the ear, what is heard is what came out before: not before a start or a jump, and round a loop', () => {
  const player = playing(() => 0.1);
  const late = 1000;
  player.seek(5000);
  expect(player.heardPosition(late)).toBe(5000);
  player.play();
  heard(player, 5 * BLOCK);
  expect(player.heardPosition(late)).toBe(5000);
  heard(player, 10 * BLOCK);
  expect(player.position).toBe(5000 + 15 * BLOCK);
  expect(player.heardPosition(late)).toBe(player.position - late);
  // What has come out is heard to its end, and the next start is where it ended.
  player.stop();
  expect(player.heardPosition(late)).toBe(player.position);
  heard(player, RATE);
  const stopped = player.position;
  player.play();
  heard(player, BLOCK);
  expect(player.heardPosition(late)).toBe(stopped);
  player.setLoop({ start: 4000, end: 10_000 });
  heard(player, 10_000 - stopped - BLOCK);
  const since = player.position - 4000;
  expect(since).toBeLessThan(BLOCK);
  expect(player.heardPosition(late)).toBe(10_000 + since - late);
  player.seek(2000);
  expect(player.heardPosition(late)).toBe(2000);
  heard(player, 3 * RATE);
  expect(player.heardPosition(late)).toBe(player.position - late);
});

test('a loop that is too short to be one is none; taking it away plays on', () => {
  const player = playing(() => 0.1);
  player.setLoop({ start: 0, end: 100 });
  player.play();
  heard(player, 1024);
  expect(player.position).toBe(1024);
  player.setLoop({ start: 0, end: 4800 });
  heard(player, 38 * BLOCK);
  expect(player.position).toBe(1024 + 38 * BLOCK - 4800);
  player.setLoop(null);
  heard(player, 38 * BLOCK);
  expect(player.position).toBe(1024 + 76 * BLOCK - 4800);
});

test('after a stop filters may ring out, then it rests', () => {
  const player = playing(() => 0.5);
  player.play();
  heard(player, 1024);
  player.stop();
  heard(player, RATE);
  expect(player.isResting).toBe(false);
  heard(player, 1.2 * RATE);
  expect(player.isResting).toBe(true);
});

describe('what rings on after a stop', () => {
  /** A narrow boost at 40 Hz that rings for seconds, and a player of it; `tone` sounds in the first second only. */
  function ringing(tone: (n: number) => number, has?: SampleSource['has']): Player {
    const band = { ...newBandSettings('bell', 40), gainDb: 30, q: 30, id: 'p', letter: 'A' };
    const track = newTrack(
      { audioId: '0'.repeat(64), channels: 1, lengthFrames: RATE * 60 },
      { id: 't', name: 't', ink: 0 },
    );
    const source: SampleSource = {
      channels: 1,
      has,
      read: (frame, count, left) => {
        for (let n = 0; n < count; n++) left[n] = frame + n < RATE ? tone(frame + n) : 0;
      },
    };
    const engine = new Engine(RATE, () => source);
    engine.setSong(
      compileSong({
        ...emptySong('Ring'),
        tracks: [{ ...track, chain: [{ ...firstEqualizer(track)!, bands: [band] }] }],
      }),
    );
    return new Player(engine);
  }
  const loudest = (samples: number[]) => samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
  const hum = (n: number) => 0.05 * Math.sin((2 * Math.PI * 40 * n) / RATE);

  test('is heard to its end, without a cut', () => {
    const player = ringing(hum);
    player.play();
    heard(player, RATE);
    player.stop();
    const tail = heard(player, 28 * RATE);
    expect(loudest(tail.slice(2 * RATE, 2.2 * RATE))).toBeGreaterThan(1e-3);
    // Slower than a wave of 40 Hz of what is left moves: no step anywhere.
    expect(greatestStep(tail.slice(RATE))).toBeLessThan(loudest(tail.slice(RATE)) * 0.006);
    expect(player.isResting).toBe(true);
  });

  test('goes on while a seek waits for samples', () => {
    const player = ringing(hum, (frame, count) => frame + count <= 2 * RATE);
    player.play();
    heard(player, RATE);
    player.seek(20 * RATE);
    const tail = heard(player, 0.4 * RATE);
    expect(player.position).toBe(20 * RATE);
    expect(loudest(tail.slice(0.3 * RATE))).toBeGreaterThan(0.1);
    expect(greatestStep(tail)).toBeLessThan(loudest(tail) * 0.006);
  });

  test('does not sound at the next start in another place', () => {
    const player = ringing(hum);
    player.play();
    heard(player, RATE);
    player.stop();
    heard(player, 40 * RATE);
    expect(player.isResting).toBe(true);
    player.seek(20 * RATE);
    player.play();
    expect(loudest(heard(player, RATE))).toBe(0);
  });
});
