import { fault } from '../faults';
import { BEAT_SECONDS, type Syllable } from '../score';
import {
  additive,
  bandPass,
  envelope,
  frames,
  highPass,
  lowPass,
  midiHz,
  mixInto,
  modes,
  noise,
  RATE,
  rms,
  sineOfTurns,
  toLevel,
  toPeak,
} from '../signal';

/**
 * Formants of sung vowels of a high voice: frequency in Hz, bandwidth in Hz, level in dB.
 * Values as in the tables of the Csound manual's appendix "Formant values" (from memory).
 */
const VOWELS: Record<Syllable['vowel'], readonly (readonly [number, number, number])[]> = {
  a: [
    [800, 80, 0],
    [1150, 90, -6],
    [2900, 120, -28],
    [3900, 130, -26],
    [4950, 140, -44],
  ],
  e: [
    [400, 60, 0],
    [1600, 80, -20],
    [2700, 120, -26],
    [3500, 150, -30],
    [4950, 200, -46],
  ],
  i: [
    [350, 55, 0],
    [2000, 90, -18],
    [2800, 100, -22],
    [3600, 140, -28],
    [4950, 200, -46],
  ],
  o: [
    [450, 70, 0],
    [800, 80, -9],
    [2830, 100, -24],
    [3800, 130, -26],
    [4950, 135, -46],
  ],
  u: [
    [325, 60, 0],
    [700, 70, -12],
    [2700, 170, -30],
    [3800, 180, -34],
    [4950, 200, -50],
  ],
};
const NASAL: readonly (readonly [number, number, number])[] = [
  [270, 60, 0],
  [1000, 150, -22],
  [2300, 200, -30],
  [3300, 250, -38],
  [4900, 250, -50],
];

/** Level of a vowel's resonances at a frequency. */
function formantGain(formants: readonly (readonly [number, number, number])[], hz: number): number {
  let power = 0;
  for (const [center, width, db] of formants) power += 10 ** (db / 10) / (1 + ((hz - center) / (0.75 * width)) ** 2);
  return Math.sqrt(power);
}

const VOICED = new Set(['l', 'n', 'm', 'r', 'b']);

export interface Voice {
  /** Random numbers of this singer. */
  seed: number;
  /** Formant frequencies relative to the table: above 1 is a smaller head. */
  size: number;
  /** How far behind the beat, seconds. */
  late: number;
  cents: number;
}

interface Take {
  sung: Float64Array;
  sibilants: Float64Array;
  pops: Float64Array;
}

/** A singer: vowels by harmonics through formants, breath, consonants as shaped noise, pops and sibilants apart. */
function singer(length: number, part: readonly Syllable[], voice: Voice): Take {
  const take: Take = {
    sung: new Float64Array(length),
    sibilants: new Float64Array(length),
    pops: new Float64Array(length),
  };
  let previousHz = 0;
  part.forEach((syllable, i) => {
    const start = frames(syllable.beat * BEAT_SECONDS + voice.late);
    const duration = syllable.beats * BEAT_SECONDS * 0.96;
    const target = midiHz(syllable.midi) * 2 ** (voice.cents / 1200);
    const from = previousHz || target * 0.97;
    const vowel = VOWELS[syllable.vowel].map(([hz, width, db]) => [hz * voice.size, width, db] as const);
    const closed = VOICED.has(syllable.onset) ? NASAL : vowel;
    const loud = envelope(duration, VOICED.has(syllable.onset) ? 0.05 : 0.035, 0.12);
    const wobble = (t: number) =>
      0.004 * Math.sin(2 * Math.PI * 0.9 * t + i) + 0.0013 * Math.sin(2 * Math.PI * 11.3 * t + 2 * i);
    const sound = additive(frames(duration), {
      hz: (t) =>
        (target + (from - target) * Math.exp(-t / 0.045)) *
        (1 +
          wobble(t) +
          0.0105 * Math.min(1, Math.max(0, (t - 0.3) / 0.4)) * Math.sin(2 * Math.PI * 5.6 * t + voice.seed)),
      level: loud,
      partial: (hz, k, t) => {
        const open = Math.min(1, t / 0.08);
        const ending = syllable.coda && syllable.coda !== 's' && duration - t < 0.14 ? 0.35 : 1;
        const tilt = k ** -(0.3 + 0.5 * (1 - syllable.strength));
        return ending * tilt * ((1 - open) * 0.6 * formantGain(closed, hz) + open * formantGain(vowel, hz));
      },
    });
    const breath = bandPass(noise(frames(duration), voice.seed * 1000 + i), 3200, 0.6).map(
      (value, n) => value * loud(n / RATE),
    );
    mixInto(sound, breath, 0, 0.035 * (rms(sound) / rms(breath)));
    mixInto(take.sung, sound, start, syllable.strength);
    addConsonants(take, syllable, start, duration, voice, i);
    previousHz = target;
  });
  return take;
}

function addConsonants(take: Take, syllable: Syllable, start: number, duration: number, voice: Voice, i: number): void {
  const seed = voice.seed * 5000 + 10 * i;
  const sibilance = fault('voice-sibilance', 'lowHz', 'highHz');
  const hiss = (seconds: number, lowHz: number, highHz: number, at: number) => {
    const level = envelope(seconds, 0.03, 0.05);
    const sound = lowPass(highPass(highPass(noise(frames(seconds), seed + 1), lowHz), lowHz), highHz);
    mixInto(
      take.sibilants,
      sound.map((value, n) => value * level(n / RATE)),
      at,
      0.8 + 0.2 * syllable.strength,
    );
  };
  const burst = (hz: number, seconds: number, gain: number, at: number) => {
    const sound = bandPass(noise(frames(seconds), seed + 2), hz, 0.9);
    mixInto(
      take.sung,
      sound.map((value, n) => value * Math.exp(-n / (RATE * seconds * 0.25))),
      at,
      gain,
    );
  };
  if (syllable.onset === 's') hiss(0.13, sibilance.lowHz, sibilance.highHz, start - frames(0.1));
  if (syllable.coda === 's') hiss(0.16, sibilance.lowHz, sibilance.highHz, start + frames(duration - 0.06));
  if (syllable.onset === 't' || syllable.coda === 't')
    burst(4200, 0.04, 0.9, syllable.onset === 't' ? start - frames(0.02) : start + frames(duration));
  if (syllable.onset === 'f') hiss(0.1, 3500, 11000, start - frames(0.08));
  if (syllable.onset === 'p' || syllable.onset === 'b') {
    burst(1100, 0.025, 0.8, start - frames(0.012));
    const pop = fault('voice-pops', 'lowHz', 'highHz');
    const thump = modes(frames(0.22), [
      { hz: (pop.lowHz + pop.highHz) / 2, bendHz: pop.highHz - pop.lowHz, gain: 1, decaySeconds: 0.045 },
      { hz: pop.lowHz, gain: 0.7, decaySeconds: 0.06 },
    ]);
    mixInto(take.pops, thump, start - frames(0.012), syllable.onset === 'p' ? 1 : 0.7);
  }
}

/** Brings a part that sounds only now and then to a level while it sounds. */
function whileSounding(signal: Float64Array, levelDb: number): Float64Array {
  const top = signal.reduce((most, value) => Math.max(most, Math.abs(value)), 1e-12);
  const sounding = signal.filter((value) => Math.abs(value) > top * 0.05);
  const gain = (10 ** (levelDb / 20) * Math.SQRT1_2) / Math.max(1e-12, rms(sounding));
  return signal.map((value) => value * gain);
}

/** The lead voice with all that is wrong with its recording. */
export function leadVoice(length: number, part: readonly Syllable[]): Float64Array {
  const take = singer(length, part, { seed: 7, size: 1, late: 0.012, cents: 0 });
  const out = toPeak(take.sung, -8);
  mixInto(out, whileSounding(take.sibilants, fault('voice-sibilance', 'levelDb').levelDb), 0);
  mixInto(out, whileSounding(take.pops, fault('voice-pops', 'levelDb').levelDb), 0);
  const rumble = fault('voice-rumble', 'lowHz', 'highHz', 'levelDb');
  mixInto(
    out,
    toLevel(lowPass(lowPass(highPass(noise(length, 31), rumble.lowHz), rumble.highHz), rumble.highHz), rumble.levelDb),
    0,
  );
  const hum = fault('voice-hum', 'frequencyHz', 'harmonics', 'levelDb');
  const mains = new Float64Array(length);
  for (let k = 1; k <= hum.harmonics; k++) {
    for (let n = 0; n < length; n++) mains[n] += sineOfTurns((hum.frequencyHz * k * n) / RATE + 0.13 * k) / k;
  }
  mixInto(out, toLevel(mains, hum.levelDb), 0);
  return out;
}

/** A harmony voice: the same words, softer consonants, no faults. */
export function harmonyVoice(length: number, part: readonly Syllable[], voice: Voice): Float64Array {
  const take = singer(length, part, voice);
  const out = toPeak(highPass(take.sung, 90), -13);
  mixInto(out, whileSounding(take.sibilants, -36), 0);
  return out;
}
