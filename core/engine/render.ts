import type { CompiledSong, CompiledTrack } from './compile';
import { Engine } from './engine';
import type { DesignedKernel } from './kernels';
import { MAX_BLOCK } from './kernel/layout';
import type { SampleSource } from './source';

/** A stretch of the song, in frames. */
export interface MixRange {
  startFrame: number;
  endFrame: number;
}

/**
 * The mix of a song, block by block, faster than it plays: the same engine that plays it, settled from the first sample, its latency
 * taken out. Yields the same two arrays again and again, valid until the next step; the samples are 64-bit, 0 dBFS = 1.
 * @param sourceOf the samples of a track; undefined is silence
 * @param kernels what the equalizers of linear phase run, see `kernelRequests`
 * @param range the default is the whole song
 */
export function* renderMix(
  song: CompiledSong,
  sourceOf: (track: CompiledTrack) => SampleSource | undefined,
  kernels: readonly DesignedKernel[] = [],
  range: MixRange = { startFrame: 0, endFrame: song.lengthFrames },
): Generator<{ left: Float64Array; right: Float64Array; frames: number; frame: number }> {
  const engine = new Engine(song.rateHz, sourceOf);
  for (const { kernelId, kernel } of kernels) engine.addKernel(kernelId, kernel);
  engine.setSong(song);
  const left = new Float64Array(MAX_BLOCK);
  const right = new Float64Array(MAX_BLOCK);
  const late = engine.latencyFrames;
  let from = range.startFrame;
  for (let frames; from < range.startFrame + late; from += frames) {
    frames = Math.min(MAX_BLOCK, range.startFrame + late - from);
    engine.process(from, frames, left, right);
  }
  for (let frame = range.startFrame; frame < range.endFrame; frame += MAX_BLOCK) {
    const frames = Math.min(MAX_BLOCK, range.endFrame - frame);
    engine.process(frame + late, frames, left, right);
    yield { left, right, frames, frame };
  }
}
