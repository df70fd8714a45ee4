import { fault } from '../faults';
import type { Note } from '../score';
import { BEAT_SECONDS } from '../score';
import {
  additive,
  bandPass,
  envelope,
  frames,
  highPass,
  lowPass,
  midiHz,
  mixInto,
  noise,
  RATE,
  resonance,
  rms,
  toLevel,
  toPeak,
} from '../signal';

/**
 * A string by a delay line with a loss filter. Source: K. Karplus, A. Strong, "Digital Synthesis of Plucked-String and Drum
 * Timbres", Computer Music Journal, 1983; tuning by an all-pass: D. Jaffe, J. Smith, same issue.
 * @param excitation what sets it in motion
 * @param damping 0 (bright) to 1 (dull)
 * @param decaySeconds time to fall by 60 dB
 */
function string(
  hz: number,
  length: number,
  excitation: Float64Array,
  damping: number,
  decaySeconds: number,
): Float64Array {
  const s = 0.5 * damping;
  const period = RATE / hz - s;
  const whole = Math.floor(period - 0.3);
  const fraction = period - whole;
  const tuning = (1 - fraction) / (1 + fraction);
  const loss = 10 ** (-3 / (decaySeconds * hz));
  const line = new Float64Array(whole);
  const out = new Float64Array(length);
  let previous = 0;
  let allPassIn = 0;
  let allPassOut = 0;
  for (let n = 0, at = 0; n < length; n++, at = (at + 1) % whole) {
    const value = line[at];
    const filtered = loss * ((1 - s) * value + s * previous);
    previous = value;
    allPassOut = tuning * (filtered - allPassOut) + allPassIn;
    allPassIn = filtered;
    line[at] = allPassOut + (n < excitation.length ? excitation[n] : 0);
    out[n] = value;
  }
  return out;
}

/** A plucked double bass with a piezo pickup: two bodies' resonances, finger noise, the preamplifier's hiss. */
export function doubleBass(length: number, notes: readonly Note[]): Float64Array {
  const out = new Float64Array(length);
  notes.forEach((note, i) => {
    const hz = midiHz(note.midi);
    const duration = frames(Math.min(4, note.beats * BEAT_SECONDS + 0.25));
    const pluck = lowPass(noise(Math.round(RATE / hz), 1200 + i), 180 + 260 * note.strength);
    const sound = string(hz, duration, pluck, 0.85, 3.2);
    const fall = envelope(duration / RATE, 0.004, 0.12);
    const finger = bandPass(noise(frames(0.03), 1500 + i), 1900, 0.8);
    mixInto(
      out,
      sound.map((value, n) => value * fall(n / RATE)),
      frames(note.beat * BEAT_SECONDS),
      note.strength,
    );
    mixInto(
      out,
      finger.map((value, n) => value * Math.exp(-n / 300)),
      frames(note.beat * BEAT_SECONDS),
      0.05 * note.strength,
    );
  });
  resonance(out, 84, 1.6, 6);
  resonance(out, 205, 2, 4);
  const clean = toPeak(lowPass(lowPass(highPass(out, 24), 900, 0.5), 5200), -8);
  const hiss = fault('bass-hiss', 'lowHz', 'highHz', 'levelDb');
  mixInto(clean, toLevel(lowPass(highPass(noise(length, 77), hiss.lowHz), hiss.highHz), hiss.levelDb), 0);
  return clean;
}

/**
 * A hammered dulcimer: two strings to a note, a shade apart, struck by wooden hammers; low notes left, high notes right.
 * Its body has the planted boxy resonance.
 */
export function dulcimer(length: number, notes: readonly Note[]): [Float64Array, Float64Array] {
  const left = new Float64Array(length);
  const right = new Float64Array(length);
  notes.forEach((note, i) => {
    const hz = midiHz(note.midi);
    const duration = frames(Math.min(3.2, note.beats * BEAT_SECONDS + 1.7));
    const hammer = lowPass(noise(frames(0.0022), 2000 + i), 5200 + 3600 * note.strength);
    const pair = [-1.3, 1.6].map((cents) => string(hz * 2 ** (cents / 1200), duration, hammer, 0.32, 2.6));
    const knock = bandPass(noise(frames(0.02), 2500 + i), 1700, 1.4);
    const place = Math.min(1, Math.max(0, (note.midi - 56) / 26));
    const fall = envelope(duration / RATE, 0.001, 0.4);
    const start = frames(note.beat * BEAT_SECONDS);
    const sound = pair[0].map((value, n) => (value + pair[1][n]) * fall(n / RATE));
    mixInto(
      sound,
      knock.map((value, n) => value * Math.exp(-n / 150)),
      0,
      0.14,
    );
    mixInto(left, sound, start, note.strength * Math.cos((place * 0.6 + 0.2) * (Math.PI / 2)));
    mixInto(right, sound, start, note.strength * Math.sin((place * 0.6 + 0.2) * (Math.PI / 2)));
  });
  const box = fault('dulcimer-box', 'frequencyHz', 'q', 'gainDb');
  const body = (side: Float64Array) => {
    highPass(side, 110);
    resonance(side, 1250, 0.9, 3);
    resonance(side, 3600, 0.8, 4);
    return resonance(side, box.frequencyHz, box.q, box.gainDb);
  };
  const pair = [body(left), body(right)];
  const peak = pair.reduce((most, side) => side.reduce((top, value) => Math.max(top, Math.abs(value)), most), 1e-12);
  const gain = 10 ** (-10 / 20) / peak;
  return [pair[0].map((value) => value * gain), pair[1].map((value) => value * gain)];
}

/** Resonances of a cello's body: centre, width factor and height in dB. Common practice for a physical model; from memory. */
const CELLO_BODY = [
  [102, 9, 8],
  [178, 10, 7],
  [236, 6, 7],
  [340, 5, 6],
  [620, 3, 2],
  [1900, 2, 3],
] as const;

/** A bowed cello: a sawtooth-like spectrum through the body, vibrato that sets in late, the grain of the bow. */
export function cello(length: number, notes: readonly Note[]): Float64Array {
  const out = new Float64Array(length);
  const bodyGain = (hz: number) =>
    CELLO_BODY.reduce(
      (gain, [center, q, db]) => gain * (1 + (10 ** (db / 20) - 1) / (1 + (q * (hz / center - center / hz)) ** 2)),
      1,
    ) /
    (1 + (hz / 2600) ** 2);
  notes.forEach((note, i) => {
    const duration = note.beats * BEAT_SECONDS + 0.1;
    const base = midiHz(note.midi);
    const swell = envelope(duration, 0.14, 0.22);
    const sound = additive(frames(duration), {
      hz: (t) => base * (1 + 0.0058 * Math.min(1, Math.max(0, (t - 0.25) / 0.4)) * Math.sin(2 * Math.PI * 5.3 * t + i)),
      level: (t) => swell(t) * (0.85 + 0.15 * Math.sin((Math.PI * t) / duration)),
      partial: (hz, k, t) => (bodyGain(hz) / k) * (1 + 0.12 * Math.sin(2 * Math.PI * (3.1 + 0.7 * k) * t + k * k)),
    });
    const bow = bandPass(noise(frames(duration), 3000 + i), 2400, 0.5);
    const grain = 0.055 * (rms(sound) / rms(bow));
    mixInto(
      sound,
      bow.map((value, n) => value * swell(n / RATE)),
      0,
      grain,
    );
    mixInto(out, sound, frames(note.beat * BEAT_SECONDS), note.strength);
  });
  return toPeak(out, -9);
}
