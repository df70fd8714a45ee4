import { BANDS, bandHz } from '@/core/suspects/resonance/grid';
import { random, RATE } from './recordings';

/** A resonance as it is planted. */
export interface PlantedBell {
  frequencyHz: number;
  q: number;
  gainDb: number;
}

/** The peaking filter of R. Bristow-Johnson, "Cookbook formulae for audio EQ biquad filter coefficients": another one than Orvid's own. */
export function withBell(samples: Float32Array, { frequencyHz, q, gainDb }: PlantedBell): Float32Array {
  const a = 10 ** (gainDb / 40);
  const w = (2 * Math.PI * frequencyHz) / RATE;
  const alpha = Math.sin(w) / (2 * q);
  const a0 = 1 + alpha / a;
  const [b0, b1, b2] = [1 + alpha * a, -2 * Math.cos(w), 1 - alpha * a].map((value) => value / a0);
  const a2 = (1 - alpha / a) / a0;
  const out = new Float32Array(samples.length);
  let [z1, z2] = [0, 0];
  for (let n = 0; n < samples.length; n++) {
    const x = samples[n];
    const y = b0 * x + z1;
    z1 = b1 * x - b1 * y + z2;
    z2 = b2 * x - a2 * y;
    out[n] = y;
  }
  return out;
}

/** Power within a sixth of an octave to either side, by two resonators one after the other. */
function powerAround(samples: Float32Array, hz: number): number {
  const w = (2 * Math.PI * hz) / RATE;
  const alpha = Math.sin(w) / (2 * 4.3);
  let sum = 0;
  const state = [0, 0, 0, 0];
  for (let n = 0; n < samples.length; n++) {
    let value = samples[n];
    for (const at of [0, 2]) {
      const y = (alpha / (1 + alpha)) * value + state[at];
      state[at] = ((2 * Math.cos(w)) / (1 + alpha)) * y + state[at + 1];
      state[at + 1] = (-alpha / (1 + alpha)) * value - ((1 - alpha) / (1 + alpha)) * y;
      value = y;
    }
    sum += value * value;
  }
  return sum / samples.length;
}

/** Levels of third-octaves around the bands on which resonances are looked for, dB: where sound excites them. */
export function levelsAround(samples: Float32Array): Float32Array {
  const some = samples.subarray(0, 10 * RATE);
  const every = 6;
  const coarse = Array.from(
    { length: Math.ceil(BANDS / every) + 1 },
    (_, i) => 10 * Math.log10(powerAround(some, bandHz(i * every)) + 1e-16),
  );
  return Float32Array.from({ length: BANDS }, (_, band) => {
    const [i, share] = [Math.floor(band / every), (band % every) / every];
    return coarse[i] + share * (coarse[i + 1] - coarse[i]);
  });
}

const GAINS_DB = [9, 12, 15, 6];

/**
 * Bells by seed where the sound excites them: the third-octave is no further than 36 dB below the loudest one, and what the bell changes
 * is at least a quarter of its power. Q from 12 to 30, 100 Hz to 8 kHz.
 */
export function bellsFor(
  name: string,
  samples: Float32Array,
  count: number,
): { bell: PlantedBell; planted: Float32Array }[] {
  const draw = random(`bells ${name}`);
  const some = samples.subarray(0, 10 * RATE);
  const loudest = Math.max(...Array.from({ length: 20 }, (_, i) => powerAround(some, 60 * 200 ** (i / 19))));
  const found: { bell: PlantedBell; planted: Float32Array }[] = [];
  for (let tries = 0; tries < 60 * count && found.length < count; tries++) {
    const bell = {
      frequencyHz: 100 * 80 ** draw(),
      q: 12 * 2.5 ** draw(),
      gainDb: GAINS_DB[found.length % GAINS_DB.length],
    };
    const there = powerAround(some, bell.frequencyHz);
    if (there < loudest * 10 ** -3.6) continue;
    const changed = withBell(some, bell).map((value, n) => value - some[n]);
    if (powerAround(changed, bell.frequencyHz) < there / 4) continue;
    found.push({ bell, planted: withBell(samples, bell) });
  }
  return found;
}
