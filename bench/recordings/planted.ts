import type { SuspectKind } from '@/core/suspects';
import { withBell } from './faults';
import { random, RATE } from './recordings';

/** A fault other than a narrow bell, planted in a recording. */
export interface Planted {
  fault: string;
  /** Kinds of suspect that name it. */
  kinds: readonly SuspectKind[];
  /** Where it is, Hz, how many of these places a finding must name, and how far off, by ratio; null for what has no place of its own. */
  place: { frequenciesHz: readonly number[]; least?: number; within: number } | null;
  samples: Float32Array;
}

type Draw = () => number;
const between = (draw: Draw, low: number, high: number) => low + (high - low) * draw();

const dB = (gainDb: number) => 10 ** (gainDb / 20);
const rmsOf = (samples: Float32Array) =>
  Math.sqrt(samples.reduce((sum, value) => sum + value * value, 0) / Math.max(1, samples.length));

/** A low-pass or high-pass of the second order, Q 0.71 (R. Bristow-Johnson, "Cookbook formulae for audio EQ biquad filter coefficients"). */
function passed(samples: Float32Array, frequencyHz: number, type: 'low' | 'high'): Float32Array {
  const w = (2 * Math.PI * frequencyHz) / RATE;
  const alpha = Math.sin(w) / Math.SQRT2;
  const cos = Math.cos(w);
  const edge = type === 'low' ? (1 - cos) / 2 : (1 + cos) / 2;
  const sign = type === 'low' ? 2 : -2;
  const out = new Float32Array(samples.length);
  let [z1, z2] = [0, 0];
  for (let n = 0; n < samples.length; n++) {
    const x = samples[n];
    const y = (edge * x) / (1 + alpha) + z1;
    z1 = (sign * edge * x + 2 * cos * y) / (1 + alpha) + z2;
    z2 = (edge * x - (1 - alpha) * y) / (1 + alpha);
    out[n] = y;
  }
  return out;
}

const band = (samples: Float32Array, lowHz: number, highHz: number) =>
  passed(passed(samples, lowHz, 'high'), highHz, 'low');

/** Level of a tenth of a second that a share of them stays below, dB. */
function levelBelow(samples: Float32Array, share: number): number {
  const length = RATE / 10;
  const levels = Array.from({ length: Math.floor(samples.length / length) }, (_, i) =>
    rmsOf(samples.subarray(i * length, (i + 1) * length)),
  ).sort((a, b) => a - b);
  return 20 * Math.log10(levels[Math.floor(share * levels.length)] + 1e-9);
}

/** The level of what is added, 4 to 14 dB over what is there in its range in the soft fifth of the moments; null where that is too loud for a fault. */
function heardLevel(samples: Float32Array, lowHz: number, highHz: number, draw: Draw): number | null {
  const levelDb = Math.max(-75, levelBelow(band(samples, lowHz, highHz), 0.2)) + between(draw, 4, 14);
  return levelDb > 20 * Math.log10(rmsOf(samples)) - 12 ? null : dB(levelDb);
}

const sum = (first: Float32Array, second: Float32Array) => first.map((value, n) => value + second[n]);

function noise(draw: Draw, length: number): Float32Array {
  return Float32Array.from({ length }, () => draw() + draw() + draw() - 1.5);
}

const scaledTo = (samples: Float32Array, level: number) => {
  const factor = level / rmsOf(samples);
  return samples.map((value) => value * factor);
};

/** A sine whose frequency and level change. @param at frequency, Hz, and level by the time, seconds */
function tone(length: number, at: (seconds: number) => { hz: number; level: number }): Float32Array {
  let phase = 0;
  return Float32Array.from({ length }, (_, n) => {
    const { hz, level } = at(n / RATE);
    phase += (2 * Math.PI * hz) / RATE;
    return level * Math.SQRT2 * Math.sin(phase);
  });
}

/** m/s */
const SOUND_SPEED = 343;
/** So many modes are a family, and this much each adds at least, beside the whole. */
const FEWEST_MODES = 3;
const HEARD_DB = -32;

/** A recording in a room with modes; null where too few of them are heard. */
function room(samples: Float32Array, modesHz: readonly number[], draw: Draw): Omit<Planted, 'fault'> | null {
  let planted = samples;
  const least = rmsOf(samples) * dB(HEARD_DB);
  const heard = modesHz.filter((frequencyHz) => {
    const before = planted;
    planted = withBell(before, { frequencyHz, q: between(draw, 10, 22), gainDb: between(draw, 8, 14) });
    return rmsOf(planted.map((value, n) => value - before[n])) > least;
  });
  if (heard.length < FEWEST_MODES) return null;
  const place = { frequenciesHz: [...modesHz], least: FEWEST_MODES, within: 1.025 };
  return { kinds: ['modes'], place, samples: planted };
}

/** So many hundredths of a second hiss, of half a minute. */
const FEWEST_HISSES = 40;

type Planter = (samples: Float32Array, draw: Draw) => Omit<Planted, 'fault'> | null;

const PLANTERS: Readonly<Record<string, Planter>> = {
  hum: (samples, draw) => {
    const mainsHz = draw() < 0.5 ? 50 : 60;
    const level = heardLevel(samples, 40, 400, draw);
    if (level === null) return null;
    const [drift, fall] = [between(draw, 0.0005, 0.003), between(draw, 0.4, 1.2)];
    const added = [1, 2, 3, 4, 5, 6]
      .map((n) =>
        tone(samples.length, (t) => ({ hz: n * mainsHz * (1 + drift * Math.sin(0.5 * t)), level: n ** -fall })),
      )
      .reduce(sum);
    return {
      kinds: ['hum'],
      place: { frequenciesHz: [mainsHz], within: 1.015 },
      samples: sum(samples, scaledTo(added, level)),
    };
  },
  hiss: (samples, draw) => {
    const level = heardLevel(samples, 5000, 15000, draw);
    if (level === null) return null;
    const added = scaledTo(passed(noise(draw, samples.length), 2500, 'high'), level);
    return { kinds: ['hiss'], place: null, samples: sum(samples, added) };
  },
  rumble: (samples, draw) => {
    const level = heardLevel(samples, 20, 50, draw);
    if (level === null) return null;
    const added = scaledTo(passed(noise(draw, samples.length), 35, 'low'), level);
    return { kinds: ['rumble'], place: null, samples: sum(samples, added) };
  },
  'a whistle that stays': (samples, draw) => {
    const frequencyHz = 800 * 9 ** draw();
    const level = heardLevel(samples, frequencyHz / 1.1, frequencyHz * 1.1, draw);
    if (level === null) return null;
    const added = tone(samples.length, () => ({ hz: frequencyHz, level }));
    return {
      kinds: ['resonance', 'whistle'],
      place: { frequenciesHz: [frequencyHz], within: 1.02 },
      samples: sum(samples, added),
    };
  },
  'a whistle that moves': (samples, draw) => {
    const frequencyHz = 800 * 9 ** draw();
    const level = heardLevel(samples, frequencyHz / 1.1, frequencyHz * 1.1, draw);
    if (level === null) return null;
    const [octaves, period] = [between(draw, 0.05, 0.2), between(draw, 6, 14)];
    const added = tone(samples.length, (t) => ({
      hz: frequencyHz * 2 ** (octaves * Math.sin((2 * Math.PI * t) / period)),
      level,
    }));
    return { kinds: ['whistle'], place: { frequenciesHz: [frequencyHz], within: 1.16 }, samples: sum(samples, added) };
  },
  'a whistle that comes and goes': (samples, draw) => {
    const frequencyHz = 800 * 9 ** draw();
    const level = heardLevel(samples, frequencyHz / 1.1, frequencyHz * 1.1, draw);
    if (level === null) return null;
    const [period, share] = [between(draw, 5, 9), between(draw, 0.3, 0.5)];
    // It swells and dies away as feedback does.
    const added = tone(samples.length, (t) => {
      const into = (t / period) % 1;
      return { hz: frequencyHz, level: into < share ? level * Math.sin((Math.PI * into) / share) : 0 };
    });
    return {
      kinds: ['whistle', 'resonance'],
      place: { frequenciesHz: [frequencyHz], within: 1.02 },
      samples: sum(samples, added),
    };
  },
  pops: (samples, draw) => {
    // Where the lows are played, a pop is one more of them.
    const lows = rmsOf(passed(passed(samples, 110, 'low'), 110, 'low'));
    if (lows > rmsOf(samples) * dB(-15)) return null;
    const added = new Float32Array(samples.length);
    const peak = levelBelow(samples, 0.9);
    for (let at = between(draw, 0.5, 3); at < samples.length / RATE - 0.3; at += between(draw, 2, 5)) {
      const [hz, decay, level] = [between(draw, 35, 80), between(draw, 0.03, 0.07), dB(peak + between(draw, -8, 2))];
      for (let n = 0; n < 0.25 * RATE; n++) {
        const t = n / RATE;
        added[Math.round(at * RATE) + n] +=
          level * Math.min(1, t / 0.004) * Math.exp(-t / decay) * Math.sin(2 * Math.PI * hz * t);
      }
    }
    return { kinds: ['pops'], place: null, samples: sum(samples, added) };
  },
  sibilants: (samples, draw) => {
    const boost = dB(between(draw, 6, 14));
    const highs = passed(samples, 4500, 'high');
    const length = RATE / 100;
    const heard = rmsOf(samples) * dB(-20);
    // Where hardly anything but the highs is left.
    const hisses = Array.from({ length: Math.floor(samples.length / length) }, (_, i) => {
      const [all, high] = [samples, highs].map((some) => rmsOf(some.subarray(i * length, (i + 1) * length)));
      return all > heard && high > all * dB(-2);
    });
    const out = samples.slice();
    let [gain, count] = [1, 0];
    for (let n = 0; n < out.length; n++) {
      const isHissing = hisses[Math.floor(n / length)];
      if (isHissing && n % length === 0) count++;
      gain += ((isHissing ? boost : 1) - gain) / (0.003 * RATE);
      out[n] += (gain - 1) * highs[n];
    }
    return count < FEWEST_HISSES ? null : { kinds: ['sibilance'], place: null, samples: out };
  },
  clicks: (samples, draw) => {
    const out = samples.slice();
    const peak = samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    for (let at = between(draw, 0.3, 1.5); at < samples.length / RATE - 0.1; at += between(draw, 0.5, 4)) {
      const [length, level] = [1 + Math.floor(6 * draw()), peak * dB(between(draw, -18, -3))];
      for (let n = 0; n < length; n++) out[Math.round(at * RATE) + n] += level * (draw() < 0.5 ? -1 : 1);
    }
    return { kinds: ['clicks'], place: null, samples: out };
  },
  'five modes between two walls': (samples, draw) => {
    const frequencyHz = between(draw, 36, 62);
    return room(
      samples,
      [1, 2, 3, 4, 5].map((n) => n * frequencyHz),
      draw,
    );
  },
  'the same, up to 1.5 % off': (samples, draw) => {
    const frequencyHz = between(draw, 36, 62);
    return room(
      samples,
      [1, 2, 3, 4, 5].map((n) => n * frequencyHz * between(draw, 0.985, 1.015)),
      draw,
    );
  },
  'modes between three pairs of walls': (samples, draw) => {
    // Some of them are not excited where a microphone stands.
    const apart = [between(draw, 2.4, 3), between(draw, 3, 4.5), between(draw, 4, 6)];
    const all = apart.flatMap((metres) => [1, 2, 3].map((n) => (n * SOUND_SPEED) / (2 * metres)));
    return room(
      samples,
      all.filter((hz) => hz < 220 && draw() < 0.6),
      draw,
    );
  },
  'a ring that decays': (samples, draw) => {
    const frequencyHz = 200 * 10 ** draw();
    const seconds = between(draw, 0.25, 0.7);
    const around = rmsOf(band(samples, frequencyHz / 1.1, frequencyHz * 1.1));
    if (around < rmsOf(samples) * dB(-36)) return null;
    // A mode that takes so long to fall by 60 dB, of the same peak height as a bell: Q = π · f · seconds / ln 1000.
    const bell = { frequencyHz, q: (Math.PI * frequencyHz * seconds) / Math.log(1000), gainDb: between(draw, 12, 20) };
    const planted = withBell(samples, bell);
    const changed = planted.map((value, n) => value - samples[n]);
    if (rmsOf(band(changed, frequencyHz / 1.1, frequencyHz * 1.1)) < around / 2) return null;
    return { kinds: ['resonance'], place: { frequenciesHz: [frequencyHz], within: 1.02 }, samples: planted };
  },
};

export const PLANTED_FAULTS = Object.keys(PLANTERS);

/** What is planted in voices only. */
export const OF_VOICES: ReadonlySet<string> = new Set(['sibilants']);

/** A fault by seed; null where the recording hides it, or would not tell it from what is played. */
export function plant(fault: string, name: string, samples: Float32Array): Planted | null {
  const draw = random(`${fault} ${name}`);
  const planted = PLANTERS[fault](samples, draw);
  return planted && { fault, ...planted };
}
