import { newTrack, emptySong, type Song, type Track } from '../song';
import { compileSong } from './compile';
import { Engine } from './engine';
import { renderMix } from './render';
import { ShiftedSource } from './shifted-source';
import type { SampleSource } from './source';
import { residueDb } from './testing/residue';

const RATE = 48000;
const LENGTH = 1 << 17;

/** A sine that goes on for ever, at −6 dBFS. */
const sine = (hz: number): SampleSource => ({
  channels: 1,
  read: (frame, count, left) => {
    for (let n = 0; n < count; n++) left[n] = 0.5 * Math.sin((2 * Math.PI * hz * (frame + n)) / RATE);
  },
});
const songOf = (changes: Partial<Track>): Song => ({
  ...emptySong('Shifted'),
  tracks: [
    {
      ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: LENGTH }, { id: 't', name: 't', ink: 0 }),
      pan: -1,
      ...changes,
    },
  ],
});

test.each([0.4, 12.37, -0.25, -230.5, 4800, -4799.999])('%d frames later is the same sound, later', (delay) => {
  for (const hz of [40, 997, 12000, 20000]) {
    const out = new Float64Array(3000);
    new ShiftedSource(sine(hz), delay).read(10000, out.length, out, out);
    const worst = out.reduce((most, value, n) => {
      const wanted = 0.5 * Math.sin((2 * Math.PI * hz * (10000 + n - delay)) / RATE);
      return Math.max(most, Math.abs(value - wanted));
    }, 0);
    expect(20 * Math.log10(worst / 0.5)).toBeLessThan(-74);
  }
});

test('a fraction is read alike as 64-bit and as 32-bit samples, in pieces or at once', () => {
  const noise = Float64Array.from({ length: 9000 }, (_, n) => Math.sin(n * n));
  const plain: SampleSource = {
    channels: 1,
    read: (frame, count, left) => {
      for (let n = 0; n < count; n++) left[n] = noise[frame + n] ?? 0;
    },
    readFloats: (frame, count, [left]) => {
      for (let n = 0; n < count; n++) left[n] = noise[frame + n] ?? 0;
    },
  };
  const shifted = new ShiftedSource(plain, 7.3);
  const [whole, pieces] = [new Float64Array(8000), new Float64Array(8000)];
  const floats = new Float32Array(8000);
  shifted.read(0, 8000, whole, whole);
  shifted.readFloats!(0, 8000, [floats]);
  for (let at = 0; at < 8000; at += 125) shifted.read(at, 125, pieces.subarray(at), pieces);
  for (let n = 0; n < 8000; n++) {
    expect(pieces[n]).toBe(whole[n]);
    expect(floats[n]).toBeCloseTo(whole[n], 6);
  }
});

test('a track has a delay of its own, earlier or later: as it plays so it is rendered, and nothing else waits', () => {
  for (const delayMs of [3.71, -3.71, 40]) {
    const song = songOf({ delayMs });
    const engine = new Engine(RATE, () => sine(440));
    engine.setSong(compileSong(song));
    expect(engine.latencyFrames).toBe(0);
    const [live, other] = [new Float64Array(128), new Float64Array(128)];
    engine.process(48000, 128, live, other);
    const range = { startFrame: 48000, endFrame: 48128 };
    for (const { left, frames, frame } of renderMix(compileSong(song), () => sine(440), [], range))
      for (let n = 0; n < frames; n++) {
        const wanted = 0.5 * Math.sin((2 * Math.PI * 440 * (frame + n - (delayMs * RATE) / 1000)) / RATE);
        expect(left[n]).toBeCloseTo(wanted, 4);
        expect(left[n]).toBeCloseTo(live[frame - 48000 + n], 9);
      }
    engine.release();
  }
  expect(compileSong(songOf({ delayMs: 100 })).lengthFrames).toBe(LENGTH + 4800);
});

test('a delay that is dragged while it sounds does not click, and arrives', () => {
  const engine = new Engine(RATE, () => sine(1000));
  engine.setSong(compileSong(songOf({})));
  const out = new Float64Array(1 << 16);
  const [left, right] = [new Float64Array(128), new Float64Array(128)];
  for (let frame = 0; frame < out.length; frame += 128) {
    // By whole periods of the sine, which nobody should hear, and back to none.
    if (frame % 4096 === 0) engine.setSong(compileSong(songOf({ delayMs: (frame / 4096) % 8 })));
    engine.process(frame, 128, left, right);
    out.set(left, frame);
  }
  expect(residueDb(out, RATE, 1000, 60)).toBeLessThan(-80);
  for (const delayMs of [2.5, 2.25, 2]) {
    engine.setSong(compileSong(songOf({ delayMs })));
    engine.process(0, 128, left, right);
  }
  for (let frame = 0; frame < 12800; frame += 128) engine.process(frame, 128, left, right);
  engine.process(48000, 128, left, right);
  expect(left[10]).toBeCloseTo(0.5 * Math.sin((2 * Math.PI * 1000 * (10 - 96)) / RATE), 6);
  engine.release();
});
