import { frames, highPass, lowPass, mixInto, RATE } from '../signal';

/** What stands in the room, and how far from the pair of microphones: metres to the left and to the right one. */
export interface Placed {
  signal: Float64Array;
  leftMetres: number;
  rightMetres: number;
}

const SPEED = 343;
/** Lengths of the delay lines, seconds: mutually prime in samples, for a hall of wood about ten metres long. */
const LINES = [0.0297, 0.0371, 0.0411, 0.0437, 0.0533, 0.0617, 0.0689, 0.0743];

/**
 * The room by a feedback delay network with a Householder matrix, damped in the highs, fed by what is placed in it.
 * Source: J.-M. Jot, A. Chaigne, "Digital Delay Networks for Designing Artificial Reverberators", AES Convention 90, 1991.
 */
export function roomMicrophones(
  length: number,
  placed: readonly Placed[],
  decaySeconds = 1.3,
): [Float64Array, Float64Array] {
  const direct = (side: 'leftMetres' | 'rightMetres') => {
    const out = new Float64Array(length);
    for (const echo of placed) mixInto(out, echo.signal, frames(echo[side] / SPEED), 1 / echo[side]);
    return out;
  };
  const left = direct('leftMetres');
  const right = direct('rightMetres');
  const lines = LINES.map((seconds) => new Float64Array(frames(seconds)));
  const gains = LINES.map((seconds) => 10 ** ((-3 * seconds) / decaySeconds));
  const low = new Float64Array(LINES.length);
  const at = new Int32Array(LINES.length);
  const reverbLeft = new Float64Array(length);
  const reverbRight = new Float64Array(length);
  const damping = 1 - Math.exp((-2 * Math.PI * 5200) / RATE);
  for (let n = 0; n < length; n++) {
    let sum = 0;
    for (let k = 0; k < LINES.length; k++) {
      low[k] += damping * (lines[k][at[k]] * gains[k] - low[k]);
      sum += low[k];
      if (k % 2 === 0) reverbLeft[n] += low[k];
      else reverbRight[n] += low[k];
    }
    for (let k = 0; k < LINES.length; k++) {
      lines[k][at[k]] = low[k] - (2 / LINES.length) * sum + (k % 2 === 0 ? left[n] : right[n]) * 0.35;
      at[k] = (at[k] + 1) % lines[k].length;
    }
  }
  mixInto(left, reverbLeft, 0, 0.8);
  mixInto(right, reverbRight, 0, 0.8);
  const sides = [left, right].map((side) => lowPass(highPass(side, 28), 14000));
  const peak = sides.reduce((most, side) => side.reduce((top, value) => Math.max(top, Math.abs(value)), most), 1e-12);
  return sides.map((side) => side.map((value) => (value * 10 ** (-11 / 20)) / peak)) as [Float64Array, Float64Array];
}
