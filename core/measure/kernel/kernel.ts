import FFT from 'fft.js';
import { kernelExports } from '../../wasm/instance';
import { twiddlesOf } from '../../wasm/twiddles';
import { MEASURE_KERNEL_BASE64 } from './kernel-bytes';

/**
 * The loops that measuring needs most of its time for, compiled to WebAssembly with SIMD; where that is missing, the plain ones. A kernel belongs to
 * one thread, and what it works on is shared by all that measure there, one after the other.
 */
interface Exports {
  memory: WebAssembly.Memory;
  transform(input: number, other: number, twiddles: number, size: number): number;
  windowed(input: number, window: number, size: number): void;
  paired(signals: number, window: number, out: number, size: number): void;
  pairPowers(spectrum: number, out: number, size: number, beyond: number, scale: number): void;
  spreadRows(
    input: number,
    out: number,
    rows: number,
    length: number,
    row: number,
    table: number,
    shares: number,
  ): void;
  crossed(spectrum: number, out: number, size: number): void;
  powers(spectrum: number, out: number, size: number, first: number, beyond: number, scale: number): void;
  truePeak(
    held: number,
    filled: number,
    taps: number,
    peak: number,
    most: number,
    reach: number,
    bend: number,
    worthALook: number,
  ): number;
  halve(line: number, filled: number, out: number): number;
  extremes(samples: number, count: number, out: number): void;
  connect(inputs: number, count: number, weights: number, cells: number, outputs: number): void;
  decibels(powers: number, count: number, floor: number): void;
  multiplied(numbers: number, factors: number, out: number, count: number): void;
  autocorrelate(samples: number, count: number, lags: number, out: number): void;
  residual(samples: number, count: number, factors: number, order: number, out: number): void;
  levels(
    left: number,
    right: number,
    frames: number,
    sections: number,
    states: number,
    sums: number,
    levels: number,
  ): void;
}

/** The spectrum of two real signals together, by one windowed transform: windows are loaded, and looked at once. What is told is valid until the next run of any. */
export interface PairSpectrum {
  /** A window of each of two signals from a place on; where a signal has no samples it is silent. */
  load(first: ArrayLike<number>, firstAt: number, second: ArrayLike<number>, secondAt: number): void;
  /** @param pairs the samples of both in turn */
  loadPairs(pairs: Float64Array): void;
  /**
   * @param scale what the squares of both are multiplied by
   * @returns power in each bin from `first` up to before `beyond`, those of both added
   */
  run(first: number, beyond: number, scale: number): Float64Array;
  /** @returns powers of each in every bin up to before `beyond`, times `scale` */
  powers(beyond: number, scale: number): readonly [first: Float64Array, second: Float64Array];
  /** @returns powers of each in every bin, and the first's spectrum times the conjugate of the second's, all fourfold */
  cross(): CrossRows;
}

/** A number for each bin. */
export type CrossRows = readonly [
  first: Float64Array,
  second: Float64Array,
  real: Float64Array,
  imaginary: Float64Array,
];

/** What looks for peaks between samples. */
export interface PeakFinder {
  /** Samples are written here, {@link HELD_SAMPLES} at most. */
  readonly held: Float64Array;
  /** @returns the peak so far, or a higher one between the samples that have all their neighbours */
  find(filled: number, peak: number): number;
}

export const HELD_SAMPLES = 4096;

/** Halves the rate of pairs of numbers. */
export interface PairHalver {
  /** Pairs are written here, {@link HELD_SAMPLES} of them and a few more. */
  readonly line: Float64Array;
  /** What was made of them; valid until the next run. */
  readonly made: Float64Array;
  /** @returns how many pairs were made of the first `filled`; twice as many were used up */
  run(filled: number): number;
}

/** Finds the least and the greatest of some samples. */
export interface ExtremesFinder {
  /** Samples are written here, {@link HELD_SAMPLES} at most. */
  readonly held: Float64Array;
  /** Puts the least and the greatest of the first `count` in place of what `found` has, where they lie beyond that. */
  find(count: number, found: Float64Array): void;
}

/** Cells of a fully connected layer of a network, before they are bent. @returns valid until the next run */
export type Layer = (inputs: Float32Array) => Float32Array;

/** What foretells samples from those before them. */
export interface Predictor {
  /** Written before each run. */
  readonly samples: Float64Array;
  /** @returns sums of the products of windowed samples with those up to `order` before; valid until the next run */
  autocorrelation(): Float64Array;
  /**
   * @param factors of a prediction error filter, the first 1
   * @returns what is left of each sample but the first ones, which are 0; valid until the next run
   */
  residual(factors: Float64Array): Float64Array;
}

/** What weights two channels by two second-order sections, and adds up their levels with and without it. */
export interface LevelAdder {
  /** Samples are written here, {@link HELD_SAMPLES} at most. */
  readonly left: Float64Array;
  readonly right: Float64Array;
  /**
   * @param from which sample on
   * @param states eight numbers of the sections, which are gone on from
   * @param levels is added to: energy of the left, of the right, the peak of the left, that of the right, the sum of their products
   * @returns weighted energy of each channel; valid until the next run
   */
  add(from: number, frames: number, states: Float64Array, levels: Float64Array): Float64Array;
}
/** The finder looks so many samples beyond what is held. */
const RUN_BEYOND = 16;
/** Of a transform. */
export const MOST_SIZE = 131072;
/** Rows that are spread at a time. */
const SPREAD_ROWS = 64;
const COMPLEX_BYTES = 16;
/** Four rows of half a spectrum are so many bytes longer than a whole one. */
const ROWS_BEYOND = 32;
/** What lies before is the compiler's. */
const FIRST_BYTE = 65536;

export class MeasureKernel {
  private readonly twiddles = new Map<number, number>();
  private next = FIRST_BYTE;
  private readonly first: number;
  private readonly second: number;
  private readonly power: number;

  private constructor(private readonly wasm: Exports) {
    this.first = this.place(MOST_SIZE * COMPLEX_BYTES + ROWS_BEYOND);
    this.second = this.place(MOST_SIZE * COMPLEX_BYTES + ROWS_BEYOND);
    this.power = this.place((MOST_SIZE / 2 + 1) * 8);
  }

  /** @returns null where WebAssembly or its SIMD is missing */
  static create(): MeasureKernel | null {
    const wasm = kernelExports<Exports>(MEASURE_KERNEL_BASE64);
    return wasm && new MeasureKernel(wasm);
  }

  private place(bytes: number): number {
    const at = this.next;
    this.next += COMPLEX_BYTES * Math.ceil(bytes / COMPLEX_BYTES);
    if (this.next > this.wasm.memory.buffer.byteLength) throw new Error('The measuring kernel has no room left.');
    return at;
  }

  private numbers(at: number, count: number): Float64Array {
    return new Float64Array(this.wasm.memory.buffer, at, count);
  }

  private twiddlesOf(size: number): number {
    const known = this.twiddles.get(size);
    if (known !== undefined) return known;
    const at = this.place(size * COMPLEX_BYTES);
    this.numbers(at, 2 * size).set(twiddlesOf(size));
    this.twiddles.set(size, at);
    return at;
  }

  /** @param window a power of two of numbers, 4 to 131072; each is a place in the kernel's memory for good */
  pairSpectrum(window: Float64Array): PairSpectrum {
    const size = window.length;
    const { wasm, first: input, second, power } = this;
    const twiddles = this.twiddlesOf(size);
    const windowAt = this.place(window.byteLength);
    this.numbers(windowAt, size).set(window);
    const powers = this.numbers(power, size / 2 + 1);
    const [signals, other] = [this.numbers(second, size), this.numbers(second + window.byteLength, size)];
    const pairs = this.numbers(input, 2 * size);
    const transformed = () => wasm.transform(input, second, twiddles, size);
    const roomBeside = (spectrum: number) => (spectrum === second ? input : second);
    return {
      load: (first, firstAt, also, alsoAt) => {
        copyWindow(signals, first, firstAt);
        copyWindow(other, also, alsoAt);
        wasm.paired(second, windowAt, input, size);
      },
      loadPairs: (values) => {
        pairs.set(values);
        wasm.windowed(input, windowAt, size);
      },
      run: (first, beyond, scale) => {
        wasm.powers(transformed(), power, size, first, beyond, scale);
        return powers;
      },
      powers: (beyond, scale) => {
        const spectrum = transformed();
        const free = roomBeside(spectrum);
        wasm.pairPowers(spectrum, free, size, beyond, scale);
        return [this.numbers(free, beyond), this.numbers(free + 8 * beyond, beyond)];
      },
      cross: () => {
        const spectrum = transformed();
        const free = roomBeside(spectrum);
        wasm.crossed(spectrum, free, size);
        const row = (i: number) => this.numbers(free + 8 * i * (size / 2 + 1), size / 2 + 1);
        return [row(0), row(1), row(2), row(3)];
      },
    };
  }

  /**
   * What spreads each number of a row over its neighbours.
   * @param received for each number of a row: the first that gives to it, and the shares of that and those after it
   * @returns spreads rows, one after the other, into others
   */
  rowSpreader(
    received: readonly { first: number; shares: readonly number[] }[],
  ): (rows: Float32Array, out: Float32Array) => void {
    const { length } = received;
    const padded = received.map(({ shares }) => (shares.length % 2 === 0 ? shares : [...shares, 0]));
    const sharesAt = this.place(8 * padded.reduce((sum, shares) => sum + shares.length, 0));
    const tableAt = this.place(16 * length);
    const table = new Int32Array(this.wasm.memory.buffer, tableAt, 3 * length);
    let used = 0;
    padded.forEach((shares, n) => {
      this.numbers(sharesAt + 8 * used, shares.length).set(shares);
      table.set([used, shares.length / 2, received[n].first], 3 * n);
      used += shares.length;
    });
    const rowAt = this.place(8 * (length + 2));
    const floats = (at: number) => new Float32Array(this.wasm.memory.buffer, at, SPREAD_ROWS * length);
    const [from, to] = [this.place(4 * SPREAD_ROWS * length), this.place(4 * SPREAD_ROWS * length)].map(floats);
    return (rows, out) => {
      for (let at = 0; at < rows.length; at += SPREAD_ROWS * length) {
        const count = Math.min(SPREAD_ROWS, (rows.length - at) / length);
        from.set(rows.subarray(at, at + count * length));
        this.wasm.spreadRows(from.byteOffset, to.byteOffset, count, length, rowAt, tableAt, sharesAt);
        out.set(to.subarray(0, count * length), at);
      }
    };
  }

  /** @param taps of the middle between two samples, then of the places beside it; see `true-peak.ts` for the rest */
  peakFinder(taps: Float64Array, most: number, reach: number, bend: number, worthALook: number): PeakFinder {
    const tapsAt = this.place(taps.byteLength);
    this.numbers(tapsAt, taps.length).set(taps);
    const heldAt = this.place((HELD_SAMPLES + RUN_BEYOND) * 8);
    return {
      held: this.numbers(heldAt, HELD_SAMPLES),
      find: (filled, peak) => this.wasm.truePeak(heldAt, filled, tapsAt, peak, most, reach, bend, worthALook),
    };
  }

  pairHalver(): PairHalver {
    const [lineAt, madeAt] = [this.place(COMPLEX_BYTES * (HELD_SAMPLES + RUN_BEYOND)), this.place(8 * HELD_SAMPLES)];
    return {
      line: this.numbers(lineAt, 2 * (HELD_SAMPLES + RUN_BEYOND)),
      made: this.numbers(madeAt, HELD_SAMPLES),
      run: (filled) => this.wasm.halve(lineAt, filled, madeAt),
    };
  }

  extremesFinder(): ExtremesFinder {
    const [heldAt, outAt] = [this.place(8 * HELD_SAMPLES), this.place(16)];
    const out = this.numbers(outAt, 2);
    return {
      held: this.numbers(heldAt, HELD_SAMPLES),
      find: (count, found) => {
        out.set(found);
        this.wasm.extremes(heldAt, count, outAt);
        found.set(out);
      },
    };
  }

  /** @param weights by input and output @param biases one for each output: a multiple of four */
  layer(weights: Float32Array, biases: Float32Array): Layer {
    const place = (count: number) => new Float32Array(this.wasm.memory.buffer, this.place(4 * count), count);
    const [held, inputs, cells] = [weights.length, weights.length / biases.length, biases.length].map(place);
    held.set(weights);
    return (values) => {
      inputs.set(values);
      cells.set(biases);
      this.wasm.connect(inputs.byteOffset, inputs.length, held.byteOffset, cells.byteOffset, cells.length);
      return cells;
    };
  }

  /** What makes powers into decibels. @param most how many, an even number @param floor is added to each power */
  decibels(most: number, floor: number): (powers: Float64Array, count: number) => Float64Array {
    const room = this.numbers(this.place(8 * most), most);
    return (powers, count) => {
      room.set(powers.subarray(0, count));
      this.wasm.decibels(room.byteOffset, count + (count % 2), floor);
      return room;
    };
  }

  /** @param window of a block; its length and `order` are multiples of eight */
  predictor(window: Float64Array, order: number): Predictor {
    const { length } = window;
    const place = (count: number) => this.numbers(this.place(8 * count), count);
    const lags = order + 8;
    const [samples, shares, sums, factors, left] = [length, length, lags, order, length].map(place);
    const windowed = place(lags + length).subarray(lags);
    shares.set(window);
    return {
      samples,
      autocorrelation: () => {
        this.wasm.multiplied(samples.byteOffset, shares.byteOffset, windowed.byteOffset, length);
        this.wasm.autocorrelate(windowed.byteOffset, length, lags, sums.byteOffset);
        return sums.subarray(0, order + 1);
      },
      residual: (all) => {
        factors.set(all.subarray(1));
        const from = 8 * order;
        this.wasm.residual(
          samples.byteOffset + from,
          length - order,
          factors.byteOffset,
          order,
          left.byteOffset + from,
        );
        return left;
      },
    };
  }

  /** @param sections b0, b1, b2, a1, a2 of one, then of the other */
  levelAdder(sections: readonly number[]): LevelAdder {
    const place = (count: number) => this.numbers(this.place(8 * count), count);
    const [factors, held, sums, added] = [place(10), place(8), place(2), place(6)];
    const [left, right] = [place(HELD_SAMPLES), place(HELD_SAMPLES)];
    factors.set(sections);
    return {
      left,
      right,
      add: (from, frames, states, levels) => {
        held.set(states);
        added.set(levels);
        this.wasm.levels(
          left.byteOffset + 8 * from,
          right.byteOffset + 8 * from,
          frames,
          factors.byteOffset,
          held.byteOffset,
          sums.byteOffset,
          added.byteOffset,
        );
        states.set(held);
        levels.set(added.subarray(0, levels.length));
        return sums;
      },
    };
  }
}

/** Copies a window of samples from a place on; where there are none it is silent. */
function copyWindow(room: Float64Array, samples: ArrayLike<number>, at: number): void {
  const [from, to] = [Math.max(0, at), Math.min(samples.length, at + room.length)];
  if (to - from < room.length) room.fill(0);
  if (to > from) fillFrom(room.subarray(from - at), samples, from, to - from);
}

/** Writes a window of each of two signals, in turn. */
export function interleavePair(
  input: Float64Array,
  first: ArrayLike<number>,
  firstAt: number,
  second: ArrayLike<number>,
  secondAt: number,
): void {
  for (let n = 0; n < input.length / 2; n++) {
    input[2 * n] = first[firstAt + n];
    input[2 * n + 1] = second[secondAt + n];
  }
}

/** Copies a run of samples to the beginning of what a kernel reads. */
export function fillFrom(room: Float64Array, samples: ArrayLike<number>, at: number, run: number): void {
  if (samples instanceof Float64Array || samples instanceof Float32Array) room.set(samples.subarray(at, at + run));
  else for (let n = 0; n < run; n++) room[n] = samples[at + n];
}

/** The same without the compiled kernel: its reference. */
export function plainPairSpectrum(window: Float64Array): PairSpectrum {
  const size = window.length;
  const fft = new FFT(size);
  const input = new Float64Array(2 * size);
  const output = fft.createComplexArray();
  const row = () => new Float64Array(size / 2 + 1);
  const power = row();
  const crossed = [row(), row(), row(), row()] as const;
  const loadPairs = (pairs: Float64Array) => {
    for (let n = 0; n < 2 * size; n++) input[n] = pairs[n] * window[n >> 1];
  };
  const cross = () => {
    fft.transform(output, input);
    for (let k = 0; k <= size / 2; k++) {
      const mirror = 2 * ((size - k) & (size - 1));
      // The real one is the even part of the spectrum, the other the odd one.
      const lr = output[2 * k] + output[mirror];
      const li = output[2 * k + 1] - output[mirror + 1];
      const rr = output[2 * k + 1] + output[mirror + 1];
      const ri = output[mirror] - output[2 * k];
      crossed[0][k] = lr * lr + li * li;
      crossed[1][k] = rr * rr + ri * ri;
      crossed[2][k] = lr * rr + li * ri;
      crossed[3][k] = li * rr - lr * ri;
    }
    return crossed;
  };
  return {
    load: (first, firstAt, second, secondAt) => {
      const pairs = new Float64Array(2 * size);
      for (let n = 0; n < size; n++) {
        pairs[2 * n] = first[firstAt + n] ?? 0;
        pairs[2 * n + 1] = second[secondAt + n] ?? 0;
      }
      loadPairs(pairs);
    },
    loadPairs,
    run: (first, beyond, scale) => {
      fft.transform(output, input);
      for (let k = first; k < beyond; k++) {
        const mirror = 2 * ((size - k) & (size - 1));
        const own = output[2 * k] ** 2 + output[2 * k + 1] ** 2;
        power[k] = 0.5 * scale * (own + output[mirror] ** 2 + output[mirror + 1] ** 2);
      }
      return power;
    },
    powers: (beyond, scale) => {
      const [first, second] = cross().map((fourfold) =>
        fourfold.subarray(0, beyond).map((value) => (scale * value) / 4),
      );
      return [first, second];
    },
    cross,
  };
}

let ofThisThread: MeasureKernel | null | undefined;

/** The kernel of this thread; null where it cannot be had. */
export const measureKernel = () =>
  ofThisThread === undefined ? (ofThisThread = MeasureKernel.create()) : ofThisThread;
