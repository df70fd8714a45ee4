import {
  HELD_SAMPLES,
  measureKernel,
  MOST_SIZE,
  plainPairSpectrum,
  type PairHalver,
  type PairSpectrum,
} from './kernel/kernel';
import { SPECTRUM_BAND_EDGES, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from './bands';
import { FLOOR_DB } from './spectrum';

/**
 * A recording over time: its power in the 120 bands of the spectrum's axis, twenty times a second, a byte each. Loudness, clearance,
 * overlaps and edges after any equalizer are worked out from it, without touching the sound.
 */
export const STEPS_PER_SECOND = 20;
export const STEP_SECONDS = 1 / STEPS_PER_SECOND;

/** A byte is half a decibel; 1 is −114.5 dB, 255 is +12.5 dB relative to a full-scale sine, and 0 is silence. */
export const LEVEL_BYTE_DB = 0.5;
const BYTE_ZERO_DB = -115;
/**
 * A level is rounded up or down in turn, as near as it lies to either (the turns follow the golden section): so a steady tone has the
 * right level in the mean, and is not a quarter of a decibel off for good.
 */
export const levelByte = (db: number, step: number, band: number): number => {
  const turns = step * 0.6180339887 + band * 0.3819660113;
  const byte = Math.floor((db - BYTE_ZERO_DB) / LEVEL_BYTE_DB + (turns - Math.floor(turns)));
  return Math.min(255, Math.max(0, byte));
};

/** Power of each byte, full-scale sine = 1. */
export const BYTE_POWERS = Float64Array.from({ length: 256 }, (_, byte) =>
  byte === 0 ? 0 : 10 ** ((byte * LEVEL_BYTE_DB + BYTE_ZERO_DB) / 10),
);

/**
 * The window of a tier, in samples at its rate: the low bands, which are narrow, are measured over a longer time at a lower rate.
 * At 48 kHz: from 300 Hz 85 ms, from 150 Hz 171 ms, from 75 Hz 0.34 s, from 37.5 Hz 0.68 s, below 1.37 s; about one and a half
 * bins or more fit into every band.
 */
const TOP_WINDOW = 4096;
const LOW_WINDOW = 2048;
const TIER_FROM_HZ = [300, 150, 75, 37.5, 0];
/** In the top tier one window a step, which overlap by four tenths; in the others for every step, two, four and eight, by seven tenths. */
const WINDOWS_PER_STEP = [1, 1, 1 / 2, 1 / 4, 1 / 8];

/**
 * Windows by the share of their length. Tiers take a half sine where they overlap little, so that nothing falls between two of them (what does
 * is 1.4 dB down), Hann elsewhere. Blackman–Harris has four terms and is −92 dB beside its main lobe: F. Harris, Proc. IEEE 66, 1978, table 1.
 */
const WINDOWS = {
  sine: (share: number) => Math.sin(Math.PI * share),
  hann: (share: number) => 0.5 - 0.5 * Math.cos(2 * Math.PI * share),
  blackmanHarris: (share: number) =>
    0.35875 -
    0.48829 * Math.cos(2 * Math.PI * share) +
    0.14128 * Math.cos(4 * Math.PI * share) -
    0.01168 * Math.cos(6 * Math.PI * share),
} as const;
/** What a sine of amplitude 1 leaves in all bins of a transform of length 1. */
const SINE_POWER = { sine: 1 / 8, hann: 3 / 32 } as const;
const spectra = new Map<string, PairSpectrum>();

/**
 * The spectrum of a window of this thread: one for each size and window, for all that measure in it.
 * @param size a power of two from 4 on; beyond 131072 it goes without the compiled kernel
 */
export function threadSpectrum(size: number, shape: keyof typeof WINDOWS): PairSpectrum {
  const key = `${shape} ${size}`;
  const known = spectra.get(key);
  if (known) return known;
  const window = Float64Array.from({ length: size }, (_, n) => WINDOWS[shape]((n + 0.5) / size));
  const kernel = size <= MOST_SIZE ? measureKernel() : null;
  const made = kernel?.pairSpectrum(window) ?? plainPairSpectrum(window);
  spectra.set(key, made);
  return made;
}
/** The memory of a tier is so many windows long before it is moved up. */
const LINE_SIZES = 4;

/** What a band takes of the bins of a transform. */
interface BandBins {
  band: number;
  first: number;
  shares: Float64Array;
}

function binsOf(band: number, binHz: number, bins: number): BandBins {
  const { lowHz, highHz } = SPECTRUM_BAND_EDGES[band];
  const first = Math.max(0, Math.floor(lowHz / binHz - 0.5));
  const last = Math.min(bins - 1, Math.ceil(highHz / binHz + 0.5));
  const shares = Float64Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => {
    const share = Math.min(highHz, (first + i + 0.5) * binHz) - Math.max(lowHz, (first + i - 0.5) * binHz);
    return Math.max(0, share / binHz);
  });
  return { band, first, shares };
}

const PUSHED_AT_ONCE = HELD_SAMPLES;

/** Halves without the compiled kernel: its reference. */
export function plainPairHalver(): PairHalver {
  const line = new Float64Array(2 * (PUSHED_AT_ONCE + 8));
  const made = new Float64Array(PUSHED_AT_ONCE + 8);
  const run = (filled: number) => {
    let count = 0;
    for (; 2 * count + 5 <= filled; count++) {
      const at = 4 * count;
      made[2 * count] = (line[at] + line[at + 8] + 4 * (line[at + 2] + line[at + 6]) + 6 * line[at + 4]) / 16;
      made[2 * count + 1] = (line[at + 1] + line[at + 9] + 4 * (line[at + 3] + line[at + 7]) + 6 * line[at + 5]) / 16;
    }
    return count;
  };
  return { line, made, run };
}

let ofThisThread: PairHalver | undefined;
const threadPairHalver = () => (ofThisThread ??= measureKernel()?.pairHalver() ?? plainPairHalver());

/** Halves the rate: five taps (1, 4, 6, 4, 1)/16, whose zero of fourth order lies where it would fold onto the bands that are measured. */
class Halver {
  /** What was not used up, left and right in turn. */
  private rest = new Float64Array(2 * 4);

  /** @param pairs left and right in turn @returns what was made of them; valid until any halver goes on */
  process(pairs: Float64Array, count: number): { made: Float64Array; count: number } {
    const { line, made, run } = threadPairHalver();
    line.set(this.rest);
    line.set(pairs.subarray(0, 2 * count), this.rest.length);
    const filled = this.rest.length / 2 + count;
    const written = run(filled);
    this.rest = line.slice(4 * written, 2 * filled);
    return { made, count: written };
  }
}

/** The bands of one resolution. Left and right are the real and imaginary part of one transform: their powers come out as a sum. */
class Tier {
  private readonly spectrum: PairSpectrum;
  /** Left and right in turn, from sample `lineStart` on. */
  private readonly line: Float64Array;
  private lineStart: number;
  private readonly bands: BandBins[];
  private readonly scale: number;
  private pushed = 0;
  private taken = 0;
  private nextEnd = 0;

  /**
   * @param rateHz at which it works
   * @param windowsPerStep how often a step is measured
   */
  constructor(
    private readonly size: number,
    private readonly rateHz: number,
    bands: readonly number[],
    channels: number,
    private readonly windowsPerStep: number,
    shape: keyof typeof SINE_POWER,
    private readonly addSpectrum: (window: number, bands: readonly BandBins[], power: Float64Array) => void,
  ) {
    this.spectrum = threadSpectrum(size, shape);
    this.line = new Float64Array(2 * LINE_SIZES * size);
    this.lineStart = -size;
    this.bands = bands.map((band) => binsOf(band, rateHz / size, size / 2 + 1));
    this.scale = 1 / (channels * SINE_POWER[shape] * size ** 2);
    this.nextEnd = this.endOf(0);
  }

  /** The sample after a window, which lies about the middle of its share of a step, or of its steps. */
  private endOf(window: number): number {
    const perWindow = (this.rateHz * STEP_SECONDS) / this.windowsPerStep;
    return Math.round((window + 0.5) * perWindow) + this.size / 2;
  }

  push(pairs: Float64Array, count: number): void {
    for (let at = 0; at < count;) {
      const run = Math.min(
        count - at,
        this.nextEnd - this.pushed,
        this.line.length / 2 - (this.pushed - this.lineStart),
      );
      this.line.set(pairs.subarray(2 * at, 2 * (at + run)), 2 * (this.pushed - this.lineStart));
      at += run;
      this.pushed += run;
      if (this.pushed === this.nextEnd) this.measure();
      if (2 * (this.pushed - this.lineStart) === this.line.length) {
        this.line.copyWithin(0, this.line.length - 2 * this.size);
        this.lineStart = this.pushed - this.size;
      }
    }
  }

  private measure(): void {
    const { size, line, spectrum, scale, bands } = this;
    const place = 2 * (this.pushed - size - this.lineStart);
    spectrum.loadPairs(line.subarray(place, place + 2 * size));
    const last = bands[bands.length - 1];
    const power = spectrum.run(bands[0].first, last.first + last.shares.length, scale);
    this.addSpectrum(this.taken, this.bands, power);
    this.nextEnd = this.endOf(++this.taken);
  }
}

/**
 * Measures a recording that is pushed in pieces. A step is 50 ms; windows lie about its middle; the channels of a stereo
 * recording are averaged as powers. Beyond its ends a recording is silent.
 */
export class BandLevelsAnalyser {
  private readonly tiers: Tier[] = [];
  /** The tier that hears each halving, from the first. */
  private readonly halvers: Halver[] = [];
  private readonly pairs = new Float64Array(2 * PUSHED_AT_ONCE);
  private readonly tierAfter: (Tier | null)[] = [];
  private bytes: Uint8Array = new Uint8Array(SPECTRUM_BANDS * 1200);
  private readonly sums = new Float64Array(SPECTRUM_BANDS);
  private readonly done: number[] = [];
  private pushed = 0;

  /** @param rateHz sample rate; @param channels 1 or 2 */
  constructor(
    private readonly rateHz: number,
    channels: number,
  ) {
    const times = rateHz > 100000 ? 4 : rateHz > 50000 ? 2 : 1;
    const bandsOf = (tier: number) =>
      SPECTRUM_CENTERS_HZ.map((hz, band) => ({ hz, band }))
        .filter(({ hz }) => hz >= TIER_FROM_HZ[tier] && (tier === 0 || hz < TIER_FROM_HZ[tier - 1]))
        .map(({ band }) => band);
    for (let tier = 0; tier < TIER_FROM_HZ.length; tier++) {
      this.done.push(0);
      const factor = tier === 0 ? 1 : 2 * times * 2 ** tier;
      const size = tier === 0 ? TOP_WINDOW * times : LOW_WINDOW;
      this.tiers.push(
        new Tier(
          size,
          rateHz / factor,
          bandsOf(tier),
          channels,
          WINDOWS_PER_STEP[tier],
          tier === 0 ? 'sine' : 'hann',
          (window, bands, power) => this.addSpectrum(tier, window, bands, power),
        ),
      );
      for (let reached = 2 ** this.halvers.length; reached < factor; reached *= 2) {
        this.halvers.push(new Halver());
        this.tierAfter.push(2 * reached === factor ? this.tiers[tier] : null);
      }
    }
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const count = samples[0].length;
    for (let at = 0; at < count; at += PUSHED_AT_ONCE) {
      const run = Math.min(PUSHED_AT_ONCE, count - at);
      const [left, right] = samples;
      for (let n = 0; n < run; n++) {
        this.pairs[2 * n] = left[at + n];
        this.pairs[2 * n + 1] = right ? right[at + n] : 0;
      }
      this.pushPairs(run);
    }
    this.pushed += count;
  }

  private pushPairs(count: number): void {
    this.tiers[0].push(this.pairs, count);
    let from: Float64Array = this.pairs;
    this.halvers.forEach((halver, i) => {
      ({ made: from, count } = halver.process(from, count));
      this.tierAfter[i]?.push(from, count);
    });
  }

  private addSpectrum(tier: number, window: number, bands: readonly BandBins[], power: Float64Array): void {
    const first = window / WINDOWS_PER_STEP[tier];
    const beyond = (window + 1) / WINDOWS_PER_STEP[tier];
    for (const { band, first: bin, shares } of bands) {
      let sum = 0;
      for (let i = 0; i < shares.length; i++) sum += shares[i] * power[bin + i];
      // A window of several steps is the same in all of them.
      for (let step = first; step < beyond; step++) this.write(step, band, sum);
    }
    this.done[tier] = beyond;
  }

  private write(step: number, band: number, power: number): void {
    const place = step * SPECTRUM_BANDS + band;
    if (place >= this.bytes.length) {
      const longer = new Uint8Array(Math.max(2 * this.bytes.length, (step + 1) * SPECTRUM_BANDS));
      longer.set(this.bytes);
      this.bytes = longer;
    }
    this.bytes[place] = levelByte(10 * Math.log10(power), step, band);
    if (step < this.steps) this.sums[band] += power;
  }

  /** The steps that have begun; while it is pushed the windows lag behind them. */
  private get steps(): number {
    return this.ended ?? Infinity;
  }
  private ended: number | null = null;

  /** @returns one row of 120 bytes for every 50 ms that have begun */
  finish(): Uint8Array {
    this.ended = Math.ceil(this.pushed / (this.rateHz * STEP_SECONDS) - 1e-9);
    this.pairs.fill(0);
    while (this.done.some((steps) => steps < this.ended!)) this.pushPairs(PUSHED_AT_ONCE);
    const all = new Uint8Array(this.ended * SPECTRUM_BANDS);
    all.set(this.bytes.subarray(0, all.length));
    return all;
  }

  /** The mean power of every step, after {@link finish}. @returns one level per band, dB relative to a full-scale sine */
  longTermDb(): number[] {
    const steps = Math.max(1, this.ended ?? 1);
    return Array.from(this.sums, (sum) => Math.max(FLOOR_DB, 10 * Math.log10(sum / steps + 1e-30)));
  }
}
