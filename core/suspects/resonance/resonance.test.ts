import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { seededRandom } from '../../formats';
import { isSureAlone, ResonanceFinder } from '.';
import { bandAt, bandHz } from './grid';
import { quantile, runningMedian } from '../order-statistics';
import { PowerFrames } from './power-frames';
import { ProfileFinder } from './profiles';

const RATE = 48000;

/** Pink noise: white noise through three poles and zeros, within 0.5 dB of −3 dB per octave from 10 Hz on (P. Kellet's filter, from memory). */
function pink(seconds: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  let [b0, b1, b2] = [0, 0, 0];
  return Float32Array.from({ length: seconds * RATE }, () => {
    const white = 2 * random() - 1;
    b0 = 0.99765 * b0 + white * 0.099046;
    b1 = 0.963 * b1 + white * 0.2965164;
    b2 = 0.57 * b2 + white * 1.0526913;
    return 0.05 * (b0 + b1 + b2 + white * 0.1848);
  });
}

/** The peaking filter of R. Bristow-Johnson's "Cookbook formulae for audio EQ biquad filter coefficients". */
function withBell(samples: Float32Array, hz: number, q: number, gainDb: number): Float32Array {
  const a = 10 ** (gainDb / 40);
  const w = (2 * Math.PI * hz) / RATE;
  const alpha = Math.sin(w) / (2 * q);
  const [b0, b1, b2, a2] = [1 + alpha * a, -2 * Math.cos(w), 1 - alpha * a, 1 - alpha / a].map(
    (c) => c / (1 + alpha / a),
  );
  let [z1, z2] = [0, 0];
  return samples.map((x) => {
    const y = b0 * x + z1;
    z1 = b1 * x - b1 * y + z2;
    z2 = b2 * x - a2 * y;
    return y;
  });
}

const noise = pink(30, 7);
const pushed = (samples: readonly Float32Array[], length = samples[0].length) => {
  const finder = new ResonanceFinder(RATE, length);
  for (let at = 0; at < samples[0].length; at += 9001) finder.push(samples.map((side) => side.subarray(at, at + 9001)));
  return finder;
};
const find = (samples: readonly Float32Array[], length?: number) => pushed(samples, length).finish();

test('+15 dB at 400 Hz and at 3 kHz in pink noise are found: place, height and width; in clean noise is nothing', () => {
  const found = find([withBell(withBell(noise, 400, 15, 15), 3000, 20, 15)]);
  for (const [hz, q] of [
    [400, 15],
    [3000, 20],
  ]) {
    const suspect = found.find(({ frequencyHz }) => Math.abs(frequencyHz / hz - 1) < 0.02)!;
    expect(suspect).toBeDefined();
    expect(Math.abs(suspect.prominenceDb - 15)).toBeLessThan(4);
    expect(Math.abs(Math.log2(suspect.frequencyHz / (suspect.highHz - suspect.lowHz) / q))).toBeLessThan(
      Math.log2(1.8),
    );
    const { frequenciesHz, softDb, middleDb, loudDb } = suspect.picture;
    const at = frequenciesHz.findIndex((each) => each > suspect.frequencyHz);
    for (const row of [softDb, middleDb, loudDb]) expect(row[at]).toBeGreaterThan(6);
  }
  expect(found).toHaveLength(2);
  expect(find([noise])).toEqual([]);
});

test('modes of a room are one finding, each with its place, and a resonance beside them is another', () => {
  const places = [1, 2, 3, 4, 5].map((n) => 44 * n);
  const room = places.reduce((samples, hz) => withBell(samples, hz, 15, 11), noise);
  const finder = pushed([withBell(room, 1000, 18, 15)]);
  const found = finder.finish();
  expect(found.map(({ kind }) => kind).sort()).toEqual(['modes', 'resonance']);
  const { modes, lowHz, highHz, sureness, picture } = found.find(({ kind }) => kind === 'modes')!;
  for (const hz of places.filter((place) => place > 50)) {
    const mode = modes!.find(({ frequencyHz }) => Math.abs(frequencyHz / hz - 1) < 0.025)!;
    expect(mode).toBeDefined();
    expect(Math.abs(mode.gainDb - 11)).toBeLessThan(5);
  }
  expect(modes!.every(({ frequencyHz }) => frequencyHz > lowHz && frequencyHz < highHz)).toBe(true);
  expect(sureness).toBeGreaterThan(0.8);
  // Where five places look alike, none of them would be named by itself.
  expect(modes!.some(isSureAlone)).toBe(false);
  expect(picture.frequenciesHz[0]).toBeLessThan(88);
  // What is found as something else, as hum, is none of them; where too few are left, there is no family.
  const besides = (namedHz: readonly number[]) =>
    finder.finish(({ frequencyHz }) => namedHz.some((hz) => Math.abs(frequencyHz / hz - 1) < 0.03));
  const fewer = besides([88]).find(({ kind }) => kind === 'modes')!;
  expect(fewer.modes!.some(({ frequencyHz }) => Math.abs(frequencyHz / 88 - 1) < 0.03)).toBe(false);
  expect(fewer.modes!.length).toBe(modes!.length - 1);
  const left = besides(places.slice(0, 3));
  expect(left.some(({ kind }) => kind === 'modes')).toBe(false);
  expect(left.some(({ frequencyHz }) => Math.abs(frequencyHz / 1000 - 1) < 0.02)).toBe(true);
});

test('in stereo too, on one side alone too; in what is silent or too short nothing is found', () => {
  const ringing = withBell(noise, 1000, 18, 15);
  const places = (samples: readonly Float32Array[]) =>
    find(samples).map(({ frequencyHz }) => Math.round(frequencyHz / 50) * 50);
  expect(places([ringing, ringing])).toEqual([1000]);
  expect(places([ringing, new Float32Array(ringing.length)])).toEqual([1000]);
  expect(find([new Float32Array(30 * RATE)])).toEqual([]);
  expect(find([ringing.subarray(0, 3 * RATE)])).toEqual([]);
});

test('of a long recording stretches are looked at, wherever it sounds', () => {
  const ringing = withBell(pink(14, 3), 1500, 18, 15);
  const long = new Float32Array(120 * RATE);
  // It sounds for 14 seconds here and there.
  long.set(ringing.subarray(0, 7 * RATE), 40 * RATE);
  long.set(ringing.subarray(7 * RATE), 90 * RATE);
  expect(find([long]).map(({ frequencyHz }) => Math.round(frequencyHz / 50) * 50)).toEqual([1500]);
});

test('a filter adds the same to the profiles, which is what the network was taught by', () => {
  const rows = (samples: Float32Array) => {
    const finder = new ProfileFinder(RATE);
    finder.push([samples]);
    return finder.finish();
  };
  const [plain, filtered] = [rows(noise), rows(withBell(noise, 2000, 12, 12))];
  const at = Math.round(bandAt(2000));
  for (const row of [0, 1, 2, 3, 4, 5, 10, 11, 12]) {
    expect(Math.abs(filtered[row][at] - plain[row][at] - 12)).toBeLessThan(2.2);
    expect(Math.abs(filtered[row][at + 40] - plain[row][at + 40])).toBeLessThan(1.5);
  }
});

test('bands are a sixtieth of an octave wide', () => {
  expect(bandHz(60) / bandHz(0)).toBeCloseTo(2, 12);
  expect(bandAt(bandHz(123))).toBeCloseTo(123, 9);
});

test('a full-scale sine has the power 1, in either of two windows that go through one transform', () => {
  const sine = Float64Array.from({ length: 4096 + 1024 }, (_, n) => Math.sin((2 * Math.PI * 64 * n) / 4096));
  const seen: number[] = [];
  new PowerFrames(4096, 1024).run([sine], (powers) => seen.push(powers[64], powers[100]));
  expect(seen).toHaveLength(4);
  expect(seen[0]).toBeCloseTo(1, 6);
  expect(seen[2]).toBeCloseTo(1, 6);
  // Beside its main lobe the window is 92 dB down.
  expect(10 * Math.log10(seen[1] + 1e-16)).toBeLessThan(-92);
  const stereo: number[] = [];
  new PowerFrames(4096, 4096).run([sine, new Float64Array(sine.length)], (powers) => stereo.push(powers[64]));
  expect(stereo).toEqual([expect.closeTo(0.5, 6)]);
});

// 262144, the window at 192 kHz, is beyond what the compiled transform takes.
test.each([131072, 262144])('windows of %d have it too', (size) => {
  const sine = Float64Array.from({ length: size }, (_, n) => Math.sin((2 * Math.PI * 64 * n) / size));
  const seen: number[] = [];
  new PowerFrames(size, size / 4).run([sine], (powers) => seen.push(powers[64]));
  expect(seen).toEqual([expect.closeTo(1, 6)]);
});

test('quantiles and running medians are those that sorting gives', () => {
  expect(quantile([], 0.5)).toBeNaN();
  expect(quantile([1, 2, 3, 4], 0.5)).toBe(2.5);
  expect(quantile([1, 2, 3, 4], 1)).toBe(4);
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: -100, max: 40, noNaN: true }), { minLength: 1, maxLength: 90 }),
      fc.integer({ min: 1, max: 30 }),
      (values, reach) => {
        const out = new Float64Array(values.length);
        runningMedian(values, reach, out);
        values.forEach((_, i) => {
          const around = Array.from(
            { length: 2 * reach + 1 },
            (__, k) => values[Math.max(0, Math.min(values.length - 1, i - reach + k))],
          ).sort((a, b) => a - b);
          expect(out[i]).toBe(around[reach]);
        });
      },
    ),
    { seed: 4, numRuns: 60 },
  );
});

/** Twelve seconds of a real recording, again and again: CC0, from Debian's package sonic-pi-samples; of the part that nothing was set on. */
function recording(name: string): Float32Array {
  const file = `/usr/share/sonic-pi/samples/${name}.flac`;
  const options = ['-v', 'error', '-stream_loop', '8', '-i', file, '-t', '12', '-ac', '1', '-ar', String(RATE)];
  const { stdout } = spawnSync('ffmpeg', [...options, '-f', 'f32le', '-'], { maxBuffer: 1e8 });
  return new Float32Array(stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.length));
}

// A little of `npm run bench -- suspects`.
test('a fixed sample: bells of +12 and +15 dB in real recordings are found, and little else', () => {
  const planted = [
    {
      name: 'loop_amen_full',
      bells: [
        [1024, 20, 12],
        [3200, 19, 15],
      ],
    },
    {
      name: 'loop_compus',
      bells: [
        [591, 28, 12],
        [1835, 29, 15],
      ],
    },
    {
      name: 'loop_electric',
      bells: [
        [889, 14, 12],
        [3908, 19, 15],
      ],
    },
    {
      name: 'loop_industrial',
      bells: [
        [556, 12, 12],
        [181, 24, 15],
      ],
    },
  ];
  let [hits, others] = [0, 0];
  for (const { name, bells } of planted) {
    const clean = recording(name);
    others += find([clean]).length;
    const found = find([bells.reduce((samples, [hz, q, gainDb]) => withBell(samples, hz, q, gainDb), clean)]);
    hits += bells.filter(([hz]) => found.some(({ frequencyHz }) => Math.abs(frequencyHz / hz - 1) < 0.02)).length;
  }
  expect(hits).toBeGreaterThanOrEqual(6);
  expect(others).toBeLessThanOrEqual(4);
});
