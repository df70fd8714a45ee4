import { designBand } from '../../filters';
import { seededRandom } from '../../formats';
import { newBandSettings, type BandChannel } from '../../song';
import { Cascade, type KeyedSection } from '../cascade';
import { toStateVariable } from '../state-variable';
import { roomFor, threadKernel, type Kernel } from './kernel';
import { MAX_BLOCK, SECTION_STRIDE, STATES_AT } from './layout';
import { ReferenceKernel } from './reference-kernel';
import { SimdKernel } from './simd-kernel';

const RATE = 48000;
const sectionsOf = (hz: number, channel: BandChannel, key: string): KeyedSection[] =>
  designBand({ ...newBandSettings('bell', hz), gainDb: 9, q: 2 }, RATE).map((section, i) => ({
    key: `${key}${i}${channel}`,
    channel,
    ...toStateVariable(section),
  }));

test('this thread runs the compiled kernel', () => expect(threadKernel().name).toBe('simd'));

/** Runs a cascade whose sections move and rest, over noise. */
function run(kernel: Kernel, mono: boolean): number[] {
  const random = seededRandom(7);
  const only = (channel: BandChannel): BandChannel => (mono ? 'stereo' : channel);
  const state = (...hz: number[]): KeyedSection[] =>
    (['stereo', 'mid', 'side', 'stereo', 'left', 'right', 'stereo'] as const).flatMap((channel, i) =>
      sectionsOf(hz[i], only(channel), `${i}/`),
    );
  const states = [state(300, 900, 60, 80, 500, 700, 90), state(400, 900, 90, 80, 5000, 7000, 90)];
  const cascade = new Cascade(states[0], RATE, kernel);
  const out: number[] = [];
  for (let block = 0; block < 90; block++) {
    if (block % 30 === 0) cascade.easeTo(states[(block / 30) % 2]);
    const left = Float64Array.from({ length: 211 }, () => random() - 0.5);
    const right = mono ? null : Float64Array.from({ length: 211 }, () => random() - 0.5);
    cascade.process(left, right, 211);
    out.push(...left, ...(right ?? []));
  }
  return out;
}

test.each([
  ['mono', true],
  ['stereo, with bands on mid, side, left and right', false],
])('both kernels give the same samples to the last bit: %s', (_, mono) => {
  const compiled = run(SimdKernel.create()!, mono);
  expect(compiled).toEqual(run(new ReferenceKernel(), mono));
  expect(Math.max(...compiled.map(Math.abs))).toBeGreaterThan(0.5);
});

test('mid, side, left and right: each is heard where it should be, and nowhere else', () => {
  const heard = (channel: BandChannel, [l, r]: [number, number]) => {
    const cascade = new Cascade([{ key: 'x', channel, g: 1, k: 1, m0: 2, m1: 0, m2: 0 }], RATE);
    const [left, right] = [new Float64Array(4).fill(l), new Float64Array(4).fill(r)];
    cascade.process(left, right, 4);
    return [left[3], right[3]];
  };
  expect(heard('stereo', [1, 0.5])).toEqual([2, 1]);
  expect(heard('left', [1, 0.5])).toEqual([2, 0.5]);
  expect(heard('right', [1, 0.5])).toEqual([1, 1]);
  expect(heard('mid', [1, 1])).toEqual([2, 2]);
  expect(heard('mid', [1, -1])).toEqual([1, -1]);
  expect(heard('side', [1, -1])).toEqual([2, -2]);
  expect(heard('side', [1, 1])).toEqual([1, 1]);
});

test('a kernel whose memory is used up hands over to the plain one, and takes none of its own twice', () => {
  const kernel = SimdKernel.create()!;
  const kept = [];
  let room = roomFor(4096, kernel);
  for (; room.kernel === kernel; room = roomFor(4096, kernel)) kept.push(room.memory);
  expect(kept.length).toBeGreaterThan(4);
  expect(room.kernel.name).toBe('reference');
  expect(room.memory.numbers).toHaveLength(4096 * SECTION_STRIDE);
  const places = kept.map((memory) => memory.numbers.byteOffset);
  expect(new Set(places).size).toBe(places.length);
  expect(kernel.left).toHaveLength(MAX_BLOCK);
});

test.each([1, 7, 512])('both kernels load, run, mix, add and check blocks alike: %i frames', (frames) => {
  const random = seededRandom(frames);
  const floats = Float32Array.from({ length: 1024 }, () => random() - 0.5);
  const samples = Float64Array.from({ length: 512 }, () => random() - 0.5);
  const gains = Float64Array.from({ length: 512 }, () => random());
  const results = [SimdKernel.create()!, new ReferenceKernel()].map((kernel) => {
    const room = kernel.allocate(16)!.numbers;
    const sides = [0, 1].map((side) => new Float32Array(room.buffer, room.byteOffset + side * 2048, 512));
    sides.forEach((side, i) => side.set(floats.subarray(i * 512, (i + 1) * 512)));
    const sections = kernel.allocate(3)!;
    for (let i = 0; i < 3; i++)
      [1, 0.3, 0.1, -1.2, 0.5].forEach((value, c) =>
        sections.numbers.fill(value, i * SECTION_STRIDE + 2 * c, i * SECTION_STRIDE + 2 * c + 2),
      );
    const [left, right] = [kernel.allocate(8)!.numbers, kernel.allocate(8)!.numbers];
    const isSound = kernel.loadPlanar(sides[0], sides[1], 0, frames);
    kernel.runOfOne(sections, 0, 3, frames);
    kernel.mix(left, right, 0.7, -0.3, frames);
    kernel.add(left, samples, frames);
    kernel.add(left, right, frames);
    // What comes from outside, and what lies in the kernel; what is added is measured, or not.
    const levels = { peak: 0.1, power: 0.2 };
    kernel.addScaled(left, samples, 1.3, frames, null);
    kernel.addScaled(left, samples, -0.4, frames, levels);
    kernel.addScaled(left, right, 2.5, frames, levels);
    kernel.gains.set(gains);
    kernel.addMoving(left, samples, kernel.gains, 1.7, frames, levels);
    kernel.addMoving(left, right, gains, -0.6, frames, null);
    const isFinite = kernel.areFinite(left, frames);
    const out = [...left, ...right];
    right[frames - 1] = Infinity;
    const isStillFinite = kernel.areFinite(right, frames);
    sides[0].fill(0);
    const isSilent = !kernel.loadPlanar(sides[0], sides[0], 0, frames);
    return { isSound, isFinite, isStillFinite, isSilent, out, levels, right: Float64Array.from(out.slice(512)) };
  });
  expect(results[0]).toEqual(results[1]);
  expect(results[0]).toMatchObject({ isSound: true, isFinite: true, isStillFinite: false, isSilent: true });
  expect(results[0].out[frames - 1]).not.toBe(0);
  const { levels, right } = results[0];
  const scaled = (all: Float64Array, factor: number) => Array.from(all.subarray(0, frames), (value) => value * factor);
  const moved = samples.subarray(0, frames).map((value, n) => value * gains[n]);
  const values = [...scaled(samples, -0.4), ...scaled(right, 2.5), ...scaled(moved, 1.7)];
  expect(levels.peak).toBe(Math.max(0.1, ...values.map(Math.abs)));
  expect(levels.power).toBeCloseTo(0.2 + values.reduce((sum, value) => sum + value * value, 0), 10);
});

test('both kernels clear what is too small from the memory of sections, and keep all else', () => {
  const remembered = [1e-31, -1e-31, 1e-29, -0.5, Infinity, NaN, 5e-324, 0];
  for (const kernel of [SimdKernel.create()!, new ReferenceKernel()]) {
    const memory = kernel.allocate(3)!;
    const states = (section: number) => {
      const at = section * SECTION_STRIDE + STATES_AT;
      return memory.numbers.subarray(at, at + 4);
    };
    for (let section = 0; section < 3; section++)
      states(section).set(remembered.slice(section === 1 ? 0 : 4).slice(0, 4));
    kernel.flush(memory, 1, 2);
    expect([...states(0)]).toEqual([Infinity, NaN, 5e-324, 0]);
    expect([...states(1)]).toEqual([0, 0, 1e-29, -0.5]);
    expect([...states(2)]).toEqual([Infinity, NaN, 0, 0]);
  }
});
