import { designEqualizer, designLinearPhase, evenResponseDb, logSpacedHz, magnitudeDb } from '../filters';
import { seededRandom } from '../formats';
import { newBandSettings, type BandChannel, type BandSettings } from '../song';
import { BlockConvolver } from './block-convolver';
import { toKernel, type ConvolutionKernel } from './convolution-kernel';
import { Convolver } from './convolver';

const RATE = 48000;
const band = (type: BandSettings['type'], frequencyHz: number, rest: Partial<BandSettings> = {}): BandSettings => ({
  ...newBandSettings(type, frequencyHz),
  ...rest,
});
const design = (bands: BandSettings[], channels: 1 | 2 = 1) =>
  designLinearPhase({ bands, outputGainDb: 0 }, RATE, channels);

/** What a convolver makes of one sample in the middle of nothing. */
function impulse(kernel: ConvolutionKernel, [l, r]: [number, number]): [Float64Array, Float64Array] {
  const length = 2 * kernel.latencyFrames;
  const [left, right] = [new Float64Array(length), new Float64Array(length)];
  left[0] = l;
  right[0] = r;
  new Convolver(kernel, RATE).process(left, right, length);
  return [left, right];
}

test.each([
  ['bells and a high-pass', [band('high-pass', 80, { order: 4 }), band('bell', 900, { gainDb: 9, q: 3 })]],
  ['an elliptic low-pass', [band('low-pass', 5000, { family: 'elliptic', order: 6 })]],
  ['a narrow boost far below', [band('bell', 40, { gainDb: 12, q: 8 })]],
])('linear phase has the magnitude of minimum phase within 0.1 dB from 20 Hz: %s', (_, bands) => {
  const { leftToLeft, worstErrorDb, taps } = design(bands);
  expect(worstErrorDb).toBeLessThan(0.06);
  const sections = designEqualizer({ bands, outputGainDb: 0 }, RATE);
  for (const hz of logSpacedHz(20, 20000, 333)) {
    const wanted = magnitudeDb(sections, hz, RATE);
    if (wanted > -50) expect(Math.abs(evenResponseDb(leftToLeft, hz, RATE) - wanted)).toBeLessThan(0.1);
  }
  for (let n = 1; n < taps / 2; n += 97) expect(leftToLeft[taps / 2 - n]).toBeCloseTo(leftToLeft[taps / 2 + n], 12);
});

test('what cannot be kept is owned up to: a notch of Q 100 at 21 Hz', () => {
  expect(design([band('bell', 21, { gainDb: 18, q: 100 })]).worstErrorDb).toBeGreaterThan(0.1);
});

/** Names by which the blocks of convolvers are shifted differently: by nothing, by 128 frames, by 128 and one block of 512. */
const NAMES = ['', String.fromCharCode(1), String.fromCharCode(5)];

test.each([
  ['short', 'minimum of taps', [band('bell', 700, { gainDb: 6 })], 1],
  ['long', 'a narrow boost far below', [band('bell', 30, { gainDb: 12, q: 20 })], 1],
  ['long, both sides', 'one on mid', [band('bell', 30, { gainDb: 12, q: 20, channel: 'mid' as const })], 2],
] as const)(
  'a partitioned convolution is the plain one, however its blocks lie: %s, %s',
  (length, _, bands, channels) => {
    const made = design([...bands], channels);
    expect(made.taps > 16384).toBe(length !== 'short');
    const kernel = toKernel(made);
    const random = seededRandom(11);
    const input = Float64Array.from({ length: 3000 }, () => random() - 0.5);
    for (const name of length === 'short' ? NAMES : NAMES.slice(2)) {
      const heard = new Float64Array(kernel.latencyFrames + made.taps / 2 + 3000);
      heard.set(input);
      const other = channels === 2 ? new Float64Array(heard.length) : null;
      const convolver = new Convolver(kernel, RATE, name);
      for (let at = 0; at < heard.length; at += 128) {
        const count = Math.min(128, heard.length - at);
        convolver.process(heard.subarray(at, at + count), other && other.subarray(at, at + count), count);
      }
      const places = [0, 777, 2500, 9000, 20000, 30000, 60000].filter((n) => n < made.taps / 2);
      for (const [side, taps] of [
        [heard, made.leftToLeft],
        [other, made.sides?.leftToRight],
      ] as const) {
        if (!side || !taps) continue;
        for (const n of places) {
          let sum = 0;
          for (let k = 0; k < 3000; k++) {
            const tap = n - k + made.taps / 2;
            if (tap >= 0 && tap < made.taps) sum += input[k] * taps[tap];
          }
          expect(side[n + kernel.latencyFrames]).toBeCloseTo(sum, 9);
        }
      }
    }
  },
);

test.each(['mid', 'side', 'left', 'right'] as BandChannel[])('a band on %s acts there and nowhere else', (channel) => {
  const kernel = toKernel(design([band('bell', 1000, { gainDb: 12, channel })], 2));
  const energies = (input: [number, number]) =>
    impulse(kernel, input).map((side) => side.reduce((sum, value) => sum + value * value, 0));
  const plain = toKernel(design([], 2));
  const untouched = (input: [number, number]) =>
    impulse(plain, input).map((side) => side.reduce((sum, value) => sum + value * value, 0));
  const signals: Record<string, [number, number]> = { mid: [1, 1], side: [1, -1], left: [1, 0], right: [0, 1] };
  const partner = { mid: 'side', side: 'mid', left: 'right', right: 'left' }[channel as 'mid'];
  energies(signals[partner]).forEach((value, i) => expect(value).toBeCloseTo(untouched(signals[partner])[i], 9));
  const total = (values: number[]) => values[0] + values[1];
  expect(total(energies(signals[channel]))).toBeGreaterThan(1.05 * total(untouched(signals[channel])));
});

test.each([
  ['short', 300, 3],
  ['long', 300, 0.03],
] as const)('a change of the kernel makes no step, and arrives: %s', (length, hz, q) => {
  const narrow = band('bell', 30, { gainDb: 9, q: 20 });
  const always = length === 'long' ? [narrow] : [];
  const [flat, boosted] = [design(always), design([...always, band('bell', hz, { gainDb: 12, q })])].map(toKernel);
  expect(flat.tail !== null).toBe(length === 'long');
  expect(boosted.taps).toBe(flat.taps);
  const convolver = new Convolver(flat, RATE);
  const frames = flat.latencyFrames + 120000;
  const signal = Float64Array.from({ length: frames }, (_, n) => 0.25 * Math.sin((2 * Math.PI * hz * n) / RATE));
  const heard = signal.slice();
  const changedAt = flat.latencyFrames + 60000;
  convolver.process(heard.subarray(0, changedAt), null, changedAt);
  convolver.easeTo(boosted);
  convolver.process(heard.subarray(changedAt), null, frames - changedAt);
  const settled = changedAt - 2000;
  expect(Math.max(...heard.slice(settled, changedAt))).toBeCloseTo(0.25, 2);
  expect(Math.max(...heard.slice(-2000))).toBeCloseTo(0.25 * 10 ** (12 / 20), 2);
  // A sine at its loudest bends by ω²·A from sample to sample; a step would bend it far more.
  const most = ((2 * Math.PI * hz) / RATE) ** 2 * 0.25 * 10 ** (12 / 20);
  for (let n = settled; n < frames; n++)
    if (Math.abs(heard[n] - 2 * heard[n - 1] + heard[n - 2]) > 1.3 * most) throw new Error(`a step at ${n}`);
});

describe('going over to another kernel', () => {
  const narrow = band('bell', 60, { gainDb: 9, q: 8, channel: 'mid' });
  const kernels = (always: BandSettings[]) =>
    [0, 12, -12].map((gainDb) => toKernel(design([...always, band('bell', 300, { gainDb, q: 2 })], 2)));
  const random = seededRandom(3);
  const FRAMES = 60000;
  const input = [0, 1].map(() => Float64Array.from({ length: FRAMES }, () => random() - 0.5));
  /** What comes out in blocks of odd sizes, with something done before some frames. */
  const run = (kernel: ConvolutionKernel, name: string, at: ReadonlyMap<number, (convolver: Convolver) => void>) => {
    const convolver = new Convolver(kernel, RATE, name);
    const [left, right] = input.map((side) => side.slice());
    const stops = [...at.keys(), FRAMES].sort((first, second) => first - second);
    for (let from = 0, n = 0; from < FRAMES; n++) {
      at.get(from)?.(convolver);
      const next = stops.find((stop) => stop > from)!;
      const to = Math.min(next, from + [128, 333, 512][n % 3]);
      convolver.process(left.subarray(from, to), right.subarray(from, to), to - from);
      from = to;
    }
    return [left, right];
  };
  const FADE = Math.round(0.024 * RATE);

  test.each([
    ['short', [], ''],
    ['short, other blocks', [], String.fromCharCode(1)],
    ['long', [narrow], ''],
    ['long, other blocks', [narrow], String.fromCharCode(5)],
  ] as const)('it is heard from the very frame on, whatever came before, made ready or not: %s', (_, always, name) => {
    const [flat, up, down] = kernels([...always]);
    expect(flat.tail !== null).toBe(always.length > 0);
    expect(new Set([flat, up, down].map(({ taps }) => taps)).size).toBe(1);
    const alone = [flat, up, down].map((kernel) => run(kernel, name, new Map()));
    for (const at of [20001, 33333, 40960]) {
      const ways = [
        new Map([[at, (convolver: Convolver) => convolver.switchTo(up)]]),
        new Map([
          [at - 4000, (convolver: Convolver) => convolver.prepare(up)],
          [at, (convolver: Convolver) => convolver.switchTo(up)],
        ]),
        new Map([
          [at - 19000, (convolver: Convolver) => convolver.prepare(up)],
          [at, (convolver: Convolver) => convolver.switchTo(up)],
        ]),
        new Map([
          [
            at - 19000,
            (convolver: Convolver) => {
              for (const kernel of [down, up, flat]) convolver.prepare(kernel);
            },
          ],
          [at - 12000, (convolver: Convolver) => convolver.switchTo(down)],
          [at - 9000, (convolver: Convolver) => convolver.switchTo(flat)],
          [at - 8000, (convolver: Convolver) => convolver.prepare(up)],
          [at, (convolver: Convolver) => convolver.switchTo(up)],
        ]),
      ];
      for (const change of ways)
        run(flat, name, change).forEach((side, i) => {
          const wrong = side.findIndex((value, n) => {
            if (n > at && n < at + FADE) {
              const [low, high] = [alone[0][i][n], alone[1][i][n]].sort((first, second) => first - second);
              return value < low - 1e-9 || value > high + 1e-9;
            }
            // Down and back again before it.
            const isDown = change.has(at - 12000) && n > at - 12000 && n < at - 9000 + FADE;
            return !isDown && Math.abs(value - alone[n <= at ? 0 : 1][i][n]) > 1e-9;
          });
          expect(wrong).toBe(-1);
        });
    }
  });

  test('what was made ready costs the convolutions of its beginning, and no more, when it is wanted', () => {
    const [flat, up] = kernels([narrow]);
    const costOf = (readyAt: number) => {
      let cost = 0;
      const switched = (convolver: Convolver) => {
        const added = jest.spyOn(BlockConvolver.prototype, 'add');
        convolver.switchTo(up);
        cost = added.mock.calls.length;
        added.mockRestore();
      };
      run(flat, '', new Map([[readyAt, (convolver: Convolver) => convolver.prepare(up)]]).set(40000, switched));
      return cost;
    };
    expect(costOf(40000 - RATE / 2)).toBe(up.head.count);
    expect(costOf(39999)).toBeGreaterThan(up.head.count);
  });

  test.each([
    ['short', []],
    ['long', [narrow]],
  ] as const)('what is wanted while it goes over comes after it: %s', (_, always) => {
    const [flat, up, down] = kernels([...always]);
    const alone = run(down, '', new Map())[0];
    const heard = run(
      flat,
      '',
      new Map([
        [30000, (convolver: Convolver) => convolver.switchTo(up)],
        [30100, (convolver: Convolver) => convolver.switchTo(flat)],
        [30200, (convolver: Convolver) => convolver.switchTo(down)],
      ]),
    )[0];
    const after = 30000 + 2 * FADE;
    expect(Math.max(...heard.map((value, n) => (n > after ? Math.abs(value - alone[n]) : 0)))).toBeLessThan(1e-9);
    const before = heard.subarray(30000 + FADE, after);
    expect(Math.max(...before.map((value, n) => Math.abs(value - alone[30000 + FADE + n])))).toBeGreaterThan(1e-3);
  });

  test.each([
    ['short', []],
    ['long', [narrow]],
  ] as const)('taken at once it is heard as if it had always run, and again after a reset: %s', (_, always) => {
    const [flat, up] = kernels([...always]);
    const alone = run(up, '', new Map())[0];
    const jumped = run(flat, '', new Map([[30011, (convolver: Convolver) => convolver.jumpTo(up)]]))[0];
    expect(Math.max(...jumped.map((value, n) => (n >= 30011 ? Math.abs(value - alone[n]) : 0)))).toBeLessThan(1e-9);
    const reset = (convolver: Convolver) => {
      convolver.switchTo(up);
      convolver.reset();
    };
    const anew = run(flat, '', new Map([[0, reset]]))[0];
    expect(Math.max(...anew.map((value, n) => Math.abs(value - alone[n])))).toBeLessThan(1e-9);
  });
});
