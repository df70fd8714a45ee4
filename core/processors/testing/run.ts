import { newProcessor, type ChainProcessor, type ProcessorKind } from '@/core/song';
import { makeRunner, type ProcessorSettings } from '..';

export const RATE = 48000;

/** A processor of a kind with some settings of its own. */
export const settingsOf = <K extends ProcessorKind>(
  kind: K,
  changes: Partial<Extract<ChainProcessor, { kind: K }>> = {},
): Extract<ChainProcessor, { kind: K }> =>
  ({ ...newProcessor(kind, kind), ...changes }) as Extract<ChainProcessor, { kind: K }>;

/** What comes out of a processor, block by block. @param key null for the sound itself; @param move settings from a frame on */
export function run(
  settings: ProcessorSettings,
  sides: Float64Array[],
  {
    key = null,
    block = 128,
    move,
    rateHz = RATE,
  }: {
    key?: Float64Array | null;
    block?: number;
    move?: { at: number; settings: ProcessorSettings };
    rateHz?: number;
  } = {},
): Float64Array[] {
  const runner = makeRunner(settings, rateHz);
  const out = sides.map((side) => side.slice());
  for (let at = 0; at < out[0].length; at += block) {
    const frames = Math.min(block, out[0].length - at);
    if (move && at >= move.at && at < move.at + block) runner.update(move.settings, false);
    const [left, right = null] = out.map((side) => side.subarray(at, at + frames));
    const own = [left, right].map((side) => side && side.slice());
    const keyLeft = key ? key.subarray(at, at + frames) : own[0]!;
    runner.process(left, right, keyLeft, key ? null : own[1], frames);
  }
  return out;
}

export const constant = (value: number, seconds: number, rateHz = RATE) =>
  new Float64Array(Math.round(seconds * rateHz)).fill(value);

export const sine = (hz: number, seconds: number, gain = 1, rateHz = RATE) =>
  Float64Array.from(
    { length: Math.round(seconds * rateHz) },
    (_, n) => gain * Math.sin((2 * Math.PI * hz * n) / rateHz),
  );

/** White noise by a seed, −1 to 1. */
export function noise(seconds: number, seed: number, rateHz = RATE): Float64Array {
  let state = seed;
  return Float64Array.from({ length: Math.round(seconds * rateHz) }, () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 31 - 1;
  });
}

export const db = (value: number) => 20 * Math.log10(Math.abs(value));
