import FFT from 'fft.js';
import type { BandChannel, BandSettings } from '../song/band';
import { designBand, type EqualizerSettings } from './design';
import { logSpacedHz, magnitudeDb } from './response';

/**
 * An equalizer as finite impulse responses of linear phase: the same magnitude at every frequency, no phase at all, everything late by
 * half of their length. Bands on one channel make it a matrix: what each side passes on to each side.
 */
export interface LinearPhaseDesign {
  /** Taps of each response; even, its middle at `taps / 2`. */
  taps: number;
  leftToLeft: Float64Array;
  /** The other three, where the sides differ or mix; null where both pass alike. */
  sides: { leftToRight: Float64Array; rightToLeft: Float64Array; rightToRight: Float64Array } | null;
  /** The greatest deviation from the wanted level that was found from 20 Hz to 20 kHz, dB; where that lies below −20 dB, it counts the less the deeper it is. */
  worstErrorDb: number;
}

/** The shortest response, seconds; the longer ones have two, four and eight times as many taps. */
const SHORTEST_SECONDS = 0.34;
const LENGTHS = 4;
const WANTED_ERROR_DB = 0.05;
const CHECKED_POINTS = 300;
/** Places about each band, in shares of its width. */
const CHECKED_BESIDE = [-1, -0.5, -0.25, -0.1, -0.04, -0.015, 0, 0.015, 0.04, 0.1, 0.25, 0.5, 1];
/** Below this level an error counts as the sample values that it is made of: a tenth of it 20 dB deeper. */
const FOLLOWED_DB = -20;
/** Share of a response at each of its ends that is faded out. */
const FADED_SHARE = 1 / 16;

const shortestTaps = (rateHz: number) => 2 ** Math.round(Math.log2(SHORTEST_SECONDS * rateHz));

/** What a band does to left and right where its magnitude is `m`: a real matrix, so that the whole has no phase. */
function bandMatrix(channel: BandChannel, m: number): [number, number, number, number] {
  switch (channel) {
    case 'stereo':
      return [m, 0, 0, m];
    case 'left':
      return [m, 0, 0, 1];
    case 'right':
      return [1, 0, 0, m];
    case 'mid':
      return [(m + 1) / 2, (m - 1) / 2, (m - 1) / 2, (m + 1) / 2];
    case 'side':
      return [(1 + m) / 2, (1 - m) / 2, (1 - m) / 2, (1 + m) / 2];
  }
}

/** The wanted matrix at a frequency: rows are what arrives, columns what comes from left and right. */
function wantedMatrix(
  bands: readonly BandSettings[],
  gain: number,
  hz: number,
  rateHz: number,
): [number, number, number, number] {
  let [ll, rl, lr, rr] = [gain, 0, 0, gain];
  for (const band of bands) {
    const [a, b, c, d] = bandMatrix(band.channel, 10 ** (magnitudeDb(designBand(band, rateHz), hz, rateHz) / 20));
    [ll, rl, lr, rr] = [a * ll + b * lr, a * rl + b * rr, c * ll + d * lr, c * rl + d * rr];
  }
  return [ll, rl, lr, rr];
}

/** A response whose real spectrum is given at `taps / 2 + 1` evenly spaced frequencies, its middle moved to `taps / 2`, its ends faded. */
function impulseOf(spectrum: Float64Array, taps: number): Float64Array {
  const fft = new FFT(taps);
  const complex = fft.createComplexArray() as number[];
  for (let k = 0; k < taps; k++) {
    complex[2 * k] = spectrum[Math.min(k, taps - k)];
    complex[2 * k + 1] = 0;
  }
  const out = fft.createComplexArray() as number[];
  fft.inverseTransform(out, complex);
  const faded = taps * FADED_SHARE;
  return Float64Array.from({ length: taps }, (_, n) => {
    const fromEnd = Math.min(n, taps - n);
    const fade = fromEnd >= faded ? 1 : 0.5 - 0.5 * Math.cos((Math.PI * fromEnd) / faded);
    return out[2 * ((n + taps / 2) % taps)] * fade;
  });
}

/** Level of a response that is even about its middle, dB: a sum of cosines, by the recurrence of Chebyshev. */
export function evenResponseDb(impulse: Float64Array, hz: number, rateHz: number): number {
  const middle = impulse.length / 2;
  const step = 2 * Math.cos((2 * Math.PI * hz) / rateHz);
  let [before, now] = [1, step / 2];
  let sum = impulse[middle];
  for (let n = 1; n < middle; n++) {
    sum += 2 * impulse[middle + n] * now;
    [before, now] = [now, step * now - before];
  }
  return 20 * Math.log10(Math.abs(sum) + 1e-30);
}

function designWith(
  { bands, outputGainDb }: EqualizerSettings,
  rateHz: number,
  channels: 1 | 2,
  taps: number,
): LinearPhaseDesign {
  const active = bands.filter((band) => band.enabled && (channels === 2 || band.channel === 'stereo'));
  const gain = 10 ** (outputGainDb / 20);
  const isAlike = active.every((band) => band.channel === 'stereo');
  const bins = taps / 2 + 1;
  const spectra = [0, 1, 2, 3].map((i) => new Float64Array(isAlike && i > 0 ? 0 : bins));
  for (let k = 0; k < bins; k++) {
    const wanted = wantedMatrix(active, gain, (k * rateHz) / taps, rateHz);
    for (let i = 0; i < (isAlike ? 1 : 4); i++) spectra[i][k] = wanted[i];
  }
  const impulses = spectra.map((spectrum) => (spectrum.length > 0 ? impulseOf(spectrum, taps) : spectrum));
  const [leftToLeft, rightToLeft, leftToRight, rightToRight] = impulses;
  let worstErrorDb = 0;
  const topHz = Math.min(20000, 0.48 * rateHz);
  const checked = [
    ...logSpacedHz(20, topHz, CHECKED_POINTS),
    ...active.flatMap(({ frequencyHz, q }) => CHECKED_BESIDE.map((share) => frequencyHz * (1 + 1 / q) ** share)),
  ].filter((hz) => hz >= 20 && hz <= topHz);
  for (const hz of checked) {
    const wanted = wantedMatrix(active, gain, hz, rateHz);
    for (const [i, impulse] of [
      [0, leftToLeft],
      [3, rightToRight],
    ] as const) {
      const wantedDb = 20 * Math.log10(Math.abs(wanted[i]) + 1e-30);
      if (impulse.length === 0) continue;
      const weight = Math.min(1, 10 ** ((wantedDb - FOLLOWED_DB) / 20));
      worstErrorDb = Math.max(worstErrorDb, weight * Math.abs(evenResponseDb(impulse, hz, rateHz) - wantedDb));
    }
  }
  return { taps, leftToLeft, sides: isAlike ? null : { leftToRight, rightToLeft, rightToRight }, worstErrorDb };
}

/**
 * Designs an equalizer of linear phase by sampling its magnitude evenly in frequency (A. Oppenheim, R. Schafer, Discrete-Time Signal
 * Processing, frequency sampling). The shortest of four lengths is taken that keeps the magnitude; a very narrow band far below may need
 * more than the longest, and `worstErrorDb` says how far off it is then.
 * @param channels bands on one channel act on two only
 * @param atLeastTaps a length below which it does not go, so that a drag does not go to and fro between two latencies
 */
export function designLinearPhase(
  equalizer: EqualizerSettings,
  rateHz: number,
  channels: 1 | 2,
  atLeastTaps = 0,
): LinearPhaseDesign {
  const lengths = Array.from({ length: LENGTHS }, (_, i) => shortestTaps(rateHz) * 2 ** i);
  const tried = lengths.filter((taps) => taps >= atLeastTaps || taps === lengths[LENGTHS - 1]);
  let design: LinearPhaseDesign | undefined;
  for (const taps of tried) {
    design = designWith(equalizer, rateHz, channels, taps);
    if (design.worstErrorDb <= WANTED_ERROR_DB) break;
  }
  return design!;
}
