import { MAX_BLOCK } from '../../engine/kernel/layout';
import { newProcessor, type Reverb } from '../../song';
import { seededRandom } from '../../formats';
import { PlainClipperLoop, type ClipperLoop } from '../clipper-loop';
import { MOST_GAIN, PlainPeakLoop, type PeakLoop } from '../peak-loop';
import { ReverbRunner } from '../reverb';
import { plainReverbMemory, type ReverbMemory } from '../reverb-memory';
import { clipperLoop, peakLoop, reverbMemory } from './kernel';

/** Noise, silence and a steady value in blocks of any length, while the curve moves and rests, hard and soft. */
function through(loop: ClipperLoop, isMono: boolean): number[] {
  const random = seededRandom(5);
  const out: number[] = [];
  const block = {
    drives: new Float64Array(MAX_BLOCK),
    ceilings: new Float64Array(MAX_BLOCK),
    bends: new Float64Array(MAX_BLOCK),
  };
  for (const [round, frames] of [1, 63, 64, 65, 128, 500, MAX_BLOCK, 128, 128, 300, 128].entries()) {
    const side = (steady: number) =>
      Float64Array.from({ length: frames }, () => (round % 4 === 2 ? 0 : round % 4 === 3 ? steady : 2 * random() - 1));
    for (let n = 0; n < frames; n++) {
      block.drives[n] = 1 + round / 2 + (round === 4 ? n / frames : 0);
      block.ceilings[n] = round < 6 ? 0.8 : 0.5 + (round === 6 ? 0.3 - (0.3 * n) / frames : 0);
      block.bends[n] = [0, 0.3, 1][round % 3];
    }
    const [left, right] = [side(0.3), isMono ? null : side(-2)];
    loop.process(left, right, block, frames);
    out.push(...left, ...(right ?? []));
  }
  return out;
}

test.each([
  ['stereo', false],
  ['mono', true],
])('the compiled loop of the clipper gives the same samples as the plain one, to the last bit: %s', (_, isMono) => {
  const loop = clipperLoop();
  expect(loop).not.toBeInstanceOf(PlainClipperLoop);
  const plain = through(new PlainClipperLoop(), isMono);
  expect(through(loop, isMono)).toEqual(plain);
  expect(Math.max(...plain.map(Math.abs))).toBeGreaterThan(0.7);
  // And again, as if nothing had been before.
  loop.reset();
  expect(through(loop, isMono)).toEqual(plain);
});

/** What is above a ceiling that falls, in bursts of noise: below it neither loop needs to look. */
function above(loop: PeakLoop, isMono: boolean): number[] {
  const random = seededRandom(9);
  const out: number[] = [];
  let level = 0;
  for (const frames of [1, 23, 24, 64, 65, MAX_BLOCK, 128, 500, 128, 128, 300]) {
    const side = () =>
      Float64Array.from({ length: frames }, () => (level = 0.995 * level + 0.01 * random()) * random());
    const worth = new Float64Array(frames).fill(0.5);
    const peaks = new Float64Array(frames);
    const left = side();
    left[frames >> 1] = 0.7;
    loop.run(left, isMono ? null : side(), worth, peaks, frames);
    out.push(...peaks.map((peak, n) => Math.max(peak, worth[n])));
  }
  return out;
}

test.each([
  ['stereo', false],
  ['mono', true],
])('the compiled loop of the limiter finds the same peaks as the plain one, to the last bit: %s', (_, isMono) => {
  const loop = peakLoop();
  expect(loop).not.toBeInstanceOf(PlainPeakLoop);
  const plain = above(new PlainPeakLoop(), isMono);
  expect(above(loop, isMono)).toEqual(plain);
  expect(plain.filter((peak) => peak > 0.5).length).toBeGreaterThan(20);
  expect(Math.max(...plain)).toBeLessThan(0.8 * MOST_GAIN);
  loop.reset();
  expect(above(loop, isMono)).toEqual(plain);
});

/** Noise, silence in which it rings out, and noise again, in blocks of any length; its settings change on the way. */
function inRoom(memoryOf: typeof reverbMemory, isMono: boolean): number[] {
  const settings = { ...newProcessor('reverb', 'r'), decaySeconds: 0.08, sizePercent: 20 } as Reverb;
  const runner = new ReverbRunner(settings, 48000, memoryOf);
  const random = seededRandom(3);
  const out: number[] = [];
  for (let round = 0; round < 240; round++) {
    const frames = [128, 1, 127, 500, MAX_BLOCK, 64, 129][round % 7];
    if (round === 20) runner.update({ ...settings, decaySeconds: 0.1, highHz: 3000 }, false);
    const side = () => Float64Array.from({ length: frames }, () => (round < 40 || round > 230 ? random() - 0.5 : 0));
    const [left, right] = [side(), isMono ? null : side()];
    runner.process(left, right, left, right, frames);
    out.push(...left, ...(right ?? []));
  }
  return out;
}

test.each([
  ['stereo', false],
  ['mono', true],
])('the compiled lines of the reverb give the same samples as the plain ones, to the last bit: %s', (_, isMono) => {
  const plain = inRoom(plainReverbMemory, isMono);
  expect(inRoom(reverbMemory, isMono)).toEqual(plain);
  expect(plain.some((value) => Math.abs(value) > 0.1)).toBe(true);
  expect(plain).toContain(0);
});

test('a reverb whose size is changed again and again stays in the kernel', () => {
  const memories: ReverbMemory[] = [];
  const memoryOf: typeof reverbMemory = (lines, scatterFrames) => {
    memories.push(reverbMemory(lines, scatterFrames));
    return memories.at(-1)!;
  };
  for (let i = 0; i < 300; i++)
    new ReverbRunner({ ...newProcessor('reverb', 'r'), sizePercent: i % 100 } as Reverb, 96000, memoryOf).release();
  expect(memories.filter(({ compiled }) => compiled === null)).toEqual([]);
});

test('where the kernel has no more room, clippers go on without it; what is given back is taken again', () => {
  const loops = Array.from({ length: 3000 }, clipperLoop);
  const plain = loops.filter((loop) => loop instanceof PlainClipperLoop);
  expect(plain.length).toBeGreaterThan(0);
  expect(plain.length).toBeLessThan(1500);
  expect(through(loops[0], false)).toEqual(through(loops[2999], false));
  loops[0].release();
  loops[0].release();
  const again = clipperLoop();
  expect(again).not.toBeInstanceOf(PlainClipperLoop);
  expect(clipperLoop()).toBeInstanceOf(PlainClipperLoop);
  // Nothing is left in it of the one before.
  expect(through(again, true)).toEqual(through(new PlainClipperLoop(), true));
});
