import { seededRandom } from '../formats';
import { kWeightingSections } from './k-weighting';
import {
  highestMomentaryLufs,
  highestShortTermLufs,
  integratedLufs,
  loudnessRangeLu,
  momentaryLufs,
  shortTermLufs,
} from './loudness';
import { LevelMeter } from './levels';
import { CorrelationMeter } from './stereo-image';
import { FLOOR_DB } from './spectrum';
import { TruePeakMeter } from './true-peak';

/** A stereo sine of 1 kHz, stretch by stretch: level in dBFS, seconds. */
function stretches(parts: readonly (readonly [number, number])[], rateHz = 48000): Float64Array {
  const meter = new LevelMeter(rateHz);
  let n = 0;
  for (const [dbfs, seconds] of parts) {
    const amplitude = 10 ** (dbfs / 20);
    const block = Float64Array.from(
      { length: Math.round(seconds * rateHz) },
      () => amplitude * Math.sin((2 * Math.PI * 1000 * n++) / rateHz),
    );
    meter.push([block, block]);
  }
  return meter.powers;
}
const times = (count: number, ...parts: (readonly [number, number])[]) =>
  Array.from({ length: count }, () => parts).flat();

// ITU-R BS.1770-4, table 1 and 2.
test('the K-weighting at 48 kHz has the coefficients of the standard', () => {
  const [shelf, pass] = kWeightingSections(48000);
  const expected = [
    [shelf, 1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585],
    [pass, 1, -2, 1, -1.99004745483398, 0.99007225036621],
  ] as const;
  for (const [{ b0, b1, b2, a1, a2 }, ...values] of expected)
    [b0, b1, b2, a1, a2].forEach((value, i) => expect(value).toBeCloseTo(values[i], 8));
});

// EBU Tech 3341, minimum requirements test signals 1 to 5: integrated loudness, ±0.1 LU.
test.each([
  ['1', [[-23, 20]], -23],
  ['2', [[-33, 20]], -33],
  [
    '3',
    [
      [-36, 10],
      [-23, 60],
      [-36, 10],
    ],
    -23,
  ],
  [
    '4',
    [
      [-72, 10],
      [-36, 10],
      [-23, 60],
      [-36, 10],
      [-72, 10],
    ],
    -23,
  ],
  [
    '5',
    [
      [-26, 20],
      [-20, 20.1],
      [-26, 20],
    ],
    -23,
  ],
] as const)('Tech 3341, case %s: integrated loudness', (_, parts, lufs) => {
  expect(Math.abs(integratedLufs(stretches(parts)) - lufs)).toBeLessThan(0.1);
});

test('Tech 3341, case 1 at 44.1 kHz', () => {
  expect(Math.abs(integratedLufs(stretches([[-23, 20]], 44100)) + 23)).toBeLessThan(0.1);
});

// Cases 1 and 2 read the same momentary and short-term; 9 and 12: steady short-term and momentary loudness of −23 LUFS, ±0.1 LU.
test('Tech 3341, cases 1, 2, 9 and 12: momentary and short-term loudness', () => {
  for (const level of [-23, -33]) {
    const powers = stretches([[level, 20]]);
    for (const lufs of [
      momentaryLufs(powers),
      shortTermLufs(powers),
      highestMomentaryLufs(powers),
      highestShortTermLufs(powers),
    ])
      expect(Math.abs(lufs - level)).toBeLessThan(0.1);
  }
  expect(Math.abs(highestShortTermLufs(stretches(times(5, [-20, 1.34], [-30, 1.66]))) + 23)).toBeLessThan(0.1);
  expect(Math.abs(highestMomentaryLufs(stretches(times(25, [-20, 0.18], [-30, 0.22]))) + 23)).toBeLessThan(0.1);
});

// EBU Tech 3342, minimum requirements test signals 1 to 4, ±1 LU.
test.each([
  [
    '1',
    [
      [-20, 20],
      [-30, 20],
    ],
    10,
  ],
  [
    '2',
    [
      [-20, 20],
      [-15, 20],
    ],
    5,
  ],
  [
    '3',
    [
      [-40, 20],
      [-20, 20],
    ],
    20,
  ],
  [
    '4',
    [
      [-50, 20],
      [-35, 20],
      [-20, 20],
      [-35, 20],
      [-50, 20],
    ],
    15,
  ],
] as const)('Tech 3342, case %s: loudness range', (_, parts, rangeLu) => {
  expect(Math.abs(loudnessRangeLu(stretches(parts)) - rangeLu)).toBeLessThan(1);
});

// EBU Tech 3341, cases 15 to 19: sines whose peaks lie between samples, +0.2 and −0.4 dB.
test.each([
  ['15', 4, 0, 0.5, -6],
  ['16', 4, 45, 0.5, -6],
  ['17', 6, 60, 0.5, -6],
  ['18', 8, 67.5, 0.5, -6],
  ['19', 4, 45, 1.41, 3],
])('Tech 3341, case %s: true peak of a sine of a %ith of the rate at %f°', (_, part, degrees, amplitude, expected) => {
  const meter = new TruePeakMeter(1);
  meter.push([
    Float64Array.from({ length: 48000 }, (__, n) => {
      const fade = Math.min(1, n / 2400, (47999 - n) / 2400);
      return fade * amplitude * Math.sin((2 * Math.PI * n) / part + (degrees * Math.PI) / 180);
    }),
  ]);
  const off = meter.finish() - expected;
  expect(off).toBeLessThan(0.2);
  expect(off).toBeGreaterThan(-0.4);
});

test('the true peak is never below the sample peak, and is found in the last samples too', () => {
  const meter = new TruePeakMeter(2);
  const right = new Float64Array(1000);
  right[999] = -0.7;
  meter.push([new Float64Array(1000), right]);
  expect(meter.finish()).toBeGreaterThanOrEqual(20 * Math.log10(0.7) - 1e-9);
  expect(new TruePeakMeter(1).finish()).toBe(FLOOR_DB);
});

test('silence has no loudness, no range; what is shorter than a block is one block', () => {
  const silence = stretches([[-Infinity, 5]]);
  expect([integratedLufs(silence), momentaryLufs(silence), highestShortTermLufs(silence)]).toEqual([
    -Infinity,
    -Infinity,
    -Infinity,
  ]);
  expect(loudnessRangeLu(silence)).toBe(0);
  expect(loudnessRangeLu(stretches([[-20, 2]]))).toBe(0);
  expect(Math.abs(integratedLufs(stretches([[-23, 0.2]])) + 23)).toBeLessThan(0.3);
});

// K. Pearson's r.
test('correlation: the same +1, inverted −1, unrelated noise about 0, silence none', () => {
  let state = 5;
  const noise = () =>
    Float64Array.from({ length: 48000 }, () => (state = (Math.imul(1664525, state) + 1013904223) >>> 0) / 2 ** 31 - 1);
  const [a, b] = [noise(), noise()];
  const of = (left: Float64Array, right: Float64Array) => {
    const meter = new CorrelationMeter();
    meter.push(left, right);
    return meter.correlation;
  };
  expect(of(a, a)).toBeCloseTo(1, 12);
  expect(
    of(
      a,
      a.map((x) => -x),
    ),
  ).toBeCloseTo(-1, 12);
  expect(Math.abs(of(a, b)!)).toBeLessThan(0.02);
  expect(of(a, new Float64Array(48000))).toBeNull();
});

test('no peak between samples is passed over, whatever lies beside it', () => {
  // Sums of sines up to 0.45 of the rate, so that what lies between the samples is known. Fourfold oversampling sees all of them but
  // 0.56 dB at most: 1/cos(π·0.9/8).
  const random = seededRandom(12);
  for (let i = 0; i < 60; i++) {
    const sines = Array.from({ length: 3 }, () => ({
      step: 2 * Math.PI * (0.3 + 0.15 * random()),
      phase: 7 * random(),
    }));
    const at = (n: number) => sines.reduce((sum, { step, phase }) => sum + Math.sin(step * n + phase), 0) / 4;
    const faded = (n: number) => at(n) * Math.exp(-(((n - 100) / 25) ** 2));
    let densest = 0;
    for (let n = 0; n < 200; n += 1 / 32) densest = Math.max(densest, Math.abs(faded(n)));
    const meter = new TruePeakMeter(1);
    meter.push([Float64Array.from({ length: 200 }, (_, n) => faded(n))]);
    const off = meter.finish() - 20 * Math.log10(densest);
    expect(off).toBeLessThan(0.1);
    expect(off).toBeGreaterThan(-0.57);
  }
});
