import { seededRandom } from '@/core/formats';

/** Small tools of synthesis; all lengths in samples at {@link RATE}. */
export const RATE = 48000;

export const fromDb = (db: number) => 10 ** (db / 20);
export const midiHz = (midi: number) => 440 * 2 ** ((midi - 69) / 12);
export const frames = (seconds: number) => Math.round(seconds * RATE);

/** White noise between −1 and 1, the same for the same seed. */
export function noise(length: number, seed: number): Float64Array {
  const random = seededRandom(seed);
  return Float64Array.from({ length }, () => 2 * random() - 1);
}

/** A second-order filter run over a signal, in place. */
export function biquad(signal: Float64Array, b0: number, b1: number, b2: number, a1: number, a2: number): Float64Array {
  let s1 = 0;
  let s2 = 0;
  for (let n = 0; n < signal.length; n++) {
    const x = signal[n];
    const y = b0 * x + s1;
    s1 = b1 * x - a1 * y + s2;
    s2 = b2 * x - a2 * y;
    signal[n] = y;
  }
  return signal;
}

function prewarped(hz: number, q: number) {
  const w = (2 * Math.PI * hz) / RATE;
  return { cos: Math.cos(w), alpha: Math.sin(w) / (2 * q) };
}

export function lowPass(signal: Float64Array, hz: number, q = Math.SQRT1_2): Float64Array {
  const { cos, alpha } = prewarped(hz, q);
  const a0 = 1 + alpha;
  return biquad(signal, (1 - cos) / 2 / a0, (1 - cos) / a0, (1 - cos) / 2 / a0, (-2 * cos) / a0, (1 - alpha) / a0);
}

export function highPass(signal: Float64Array, hz: number, q = Math.SQRT1_2): Float64Array {
  const { cos, alpha } = prewarped(hz, q);
  const a0 = 1 + alpha;
  return biquad(signal, (1 + cos) / 2 / a0, -(1 + cos) / a0, (1 + cos) / 2 / a0, (-2 * cos) / a0, (1 - alpha) / a0);
}

export function bandPass(signal: Float64Array, hz: number, q: number): Float64Array {
  const { cos, alpha } = prewarped(hz, q);
  const a0 = 1 + alpha;
  return biquad(signal, alpha / a0, 0, -alpha / a0, (-2 * cos) / a0, (1 - alpha) / a0);
}

/** A resonance that lifts its surroundings by `gainDb`. */
export function resonance(signal: Float64Array, hz: number, q: number, gainDb: number): Float64Array {
  const { cos, alpha } = prewarped(hz, q);
  const a = 10 ** (gainDb / 40);
  const a0 = 1 + alpha / a;
  return biquad(
    signal,
    (1 + alpha * a) / a0,
    (-2 * cos) / a0,
    (1 - alpha * a) / a0,
    (-2 * cos) / a0,
    (1 - alpha / a) / a0,
  );
}

/** Adds `signal · gain` into `target` from `at` on. */
export function mixInto(target: Float64Array, signal: ArrayLike<number>, at: number, gain = 1): void {
  const end = Math.min(signal.length, target.length - at);
  for (let n = Math.max(0, -at); n < end; n++) target[at + n] += signal[n] * gain;
}

export function rms(signal: ArrayLike<number>): number {
  let sum = 0;
  for (let n = 0; n < signal.length; n++) sum += signal[n] * signal[n];
  return Math.sqrt(sum / Math.max(1, signal.length));
}

/** Scales a signal so that its RMS is `levelDb` relative to a full-scale sine. */
export function toLevel(signal: Float64Array, levelDb: number): Float64Array {
  const gain = (fromDb(levelDb) * Math.SQRT1_2) / Math.max(1e-12, rms(signal));
  return signal.map((value) => value * gain);
}

/** Scales a signal so that its greatest sample is `peakDb` dBFS. */
export function toPeak(signal: Float64Array, peakDb: number): Float64Array {
  let peak = 1e-12;
  for (const value of signal) peak = Math.max(peak, Math.abs(value));
  const gain = fromDb(peakDb) / peak;
  return signal.map((value) => value * gain);
}

const SINE = Float64Array.from({ length: 4097 }, (_, i) => Math.sin((2 * Math.PI * i) / 4096));

/** Sine of a phase in turns, from a table with linear interpolation (error below −120 dB). */
export function sineOfTurns(turns: number): number {
  const place = (turns - Math.floor(turns)) * 4096;
  const i = place | 0;
  return SINE[i] + (place - i) * (SINE[i + 1] - SINE[i]);
}

/** What is left of a struck thing's sound ends over this time, s: cut off it would click. */
const END_SECONDS = 0.05;

/** A sum of decaying sines: the modes of a struck thing. */
export function modes(
  length: number,
  list: readonly { hz: number; gain: number; decaySeconds: number; bendHz?: number }[],
): Float64Array {
  const out = new Float64Array(length);
  for (const { hz, gain, decaySeconds, bendHz = 0 } of list) {
    let turns = 0;
    for (let n = 0; n < length; n++) {
      const t = n / RATE;
      turns += (hz + bendHz * Math.exp(-t / 0.018)) / RATE;
      const attack = Math.min(1, t / 0.0012);
      const end = Math.min(1, (length - n) / (END_SECONDS * RATE));
      out[n] += gain * attack * end * Math.exp(-t / decaySeconds) * sineOfTurns(turns);
    }
  }
  return out;
}

/** One syllable or stroke of a sustained tone. */
export interface Tone {
  /** Fundamental in Hz at a time in seconds from the start. */
  hz: (seconds: number) => number;
  /** Loudness 0 to 1 at a time. */
  level: (seconds: number) => number;
  /** Amplitude of a partial at a frequency and time; asked for every 5 ms. */
  partial: (hz: number, number: number, seconds: number) => number;
}

/** Additive synthesis up to 16 kHz; amplitudes glide between control points, so nothing steps and nothing aliases. */
export function additive(length: number, tone: Tone): Float64Array {
  const out = new Float64Array(length);
  const hop = 240;
  let turns = 0;
  let before: number[] = [];
  for (let at = 0; at < length; at += hop) {
    const seconds = at / RATE;
    const base = tone.hz(seconds);
    const count = Math.min(120, Math.floor(16000 / base));
    const level = tone.level(seconds + hop / RATE);
    const after = Array.from({ length: count }, (_, k) => level * tone.partial(base * (k + 1), k + 1, seconds));
    const steps = Math.min(hop, length - at);
    const next = tone.hz(seconds + hop / RATE);
    for (let n = 0; n < steps; n++) {
      const f = n / hop;
      turns += (base + f * (next - base)) / RATE;
      let sum = 0;
      for (let k = 0; k < count; k++) {
        const start = before[k] ?? 0;
        const amplitude = start + f * (after[k] - start);
        if (amplitude > 1e-7) sum += amplitude * sineOfTurns(turns * (k + 1));
      }
      out[at + n] = sum;
    }
    before = after;
  }
  return out;
}

/** A loudness curve: rises, holds, falls; seconds. */
export function envelope(duration: number, attack: number, release: number): (seconds: number) => number {
  const smooth = (x: number) => (x <= 0 ? 0 : x >= 1 ? 1 : x * x * (3 - 2 * x));
  return (t) => smooth(t / attack) * smooth((duration - t) / release);
}
