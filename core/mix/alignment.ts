import { compileSong, songKernels, renderMix, type MixRange, type SourceOf } from '../engine';
import { findAlignment, type Alignment, type FrequencyBand } from '../measure';
import { findStrip, type Song } from '../song';
import { partOf } from './parts';

/** Nothing longer is looked at: what is there once is there again. */
const MOST_SECONDS = 20;

/** No more is rendered to look for that. */
const LONGEST_SECONDS = 120;

/** A strip by itself as it leaves its fader, in the middle: the mean of its sides. */
export function soundOf(
  song: Song,
  stripId: string,
  sourceOf: SourceOf,
  { startFrame, endFrame }: MixRange,
): Float64Array {
  const inTheMiddle = <T extends { id: string }>(strip: T): T => (strip.id === stripId ? { ...strip, pan: 0 } : strip);
  const part = partOf({ ...song, tracks: song.tracks.map(inTheMiddle), buses: song.buses.map(inTheMiddle) }, stripId);
  const out = new Float64Array(endFrame - startFrame);
  const kernels = songKernels(part);
  for (const { left, right, frames, frame } of renderMix(compileSong(part), sourceOf, kernels, {
    startFrame,
    endFrame,
  }))
    for (let n = 0; n < frames; n++) out[frame + n - startFrame] = (left[n] + right[n]) / 2;
  return out;
}

/** The part of a stretch, up to 20 seconds, in which the quieter of some sounds is loudest. */
export function loudestPart(sounds: readonly Float64Array[], rateHz: number): { from: number; to: number } {
  const most = MOST_SECONDS * rateHz;
  const length = sounds[0].length;
  if (length <= most) return { from: 0, to: length };
  const step = Math.floor(most / 8);
  const powers = sounds.map((samples) =>
    Array.from({ length: Math.floor(length / step) }, (_, i) =>
      samples.subarray(i * step, (i + 1) * step).reduce((sum, value) => sum + value * value, 0),
    ),
  );
  const worth = (at: number) =>
    Math.min(...powers.map((steps) => steps.slice(at, at + 8).reduce((sum, power) => sum + power, 0)));
  const places = powers[0].slice(7).map((_, at) => worth(at));
  const best = places.indexOf(Math.max(...places));
  return { from: best * step, to: best * step + most };
}

/**
 * How strips stand to the first of them, as they leave their faders with their chains, delays and polarities as they are.
 * @param band in which they are to add up; null for all of it
 * @returns one for each strip after the first; see `findAlignment`
 */
export function alignStrips(
  song: Song,
  stripIds: readonly string[],
  sourceOf: SourceOf,
  range: MixRange,
  band: FrequencyBand | null,
): Alignment[] {
  const endFrame = Math.min(range.endFrame, range.startFrame + LONGEST_SECONDS * song.rateHz);
  const sounds = stripIds
    .filter((id) => findStrip(song, id))
    .map((id) => soundOf(song, id, sourceOf, { ...range, endFrame }));
  const [first, ...others] = sounds;
  return others.map((other) => {
    const { from, to } = loudestPart([first, other], song.rateHz);
    return findAlignment(first.subarray(from, to), other.subarray(from, to), song.rateHz, band ?? undefined);
  });
}
