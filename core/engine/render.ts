import type { CompiledSong, CompiledTrack } from './compile';
import { Engine } from './engine';
import { MAX_BLOCK } from './kernel/layout';
import type { SampleSource } from './source';

/** A stretch of the song, in frames. */
export interface MixRange {
  startFrame: number;
  endFrame: number;
}

/**
 * The mix of a song, block by block, faster than it plays: the same engine that plays it, settled from the first sample.
 * Yields the same two arrays again and again, valid until the next step; the samples are 64-bit, 0 dBFS = 1.
 * @param sourceOf the samples of a track; undefined is silence
 * @param range the default is the whole song
 */
export function* renderMix(
  song: CompiledSong,
  sourceOf: (track: CompiledTrack) => SampleSource | undefined,
  range: MixRange = { startFrame: 0, endFrame: song.lengthFrames },
): Generator<{ left: Float64Array; right: Float64Array; frames: number; frame: number }> {
  const engine = new Engine(song.rateHz, sourceOf);
  engine.setSong(song);
  const left = new Float64Array(MAX_BLOCK);
  const right = new Float64Array(MAX_BLOCK);
  for (let frame = range.startFrame; frame < range.endFrame; frame += MAX_BLOCK) {
    const frames = Math.min(MAX_BLOCK, range.endFrame - frame);
    engine.process(frame, frames, left, right);
    yield { left, right, frames, frame };
  }
}
