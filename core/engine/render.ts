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

export type SourceOf = (track: CompiledTrack) => SampleSource | undefined;

/** Tracks are added up in so many groups, one after the other: so a mix is the same to the last bit however many threads work at it. */
const GROUPS = 8;

/** The numbers of the tracks of each group. */
export function trackGroups(song: CompiledSong): number[][] {
  const count = song.tracks.length;
  return Array.from({ length: Math.min(GROUPS, count) }, (_, group) =>
    song.tracks.map((__, i) => i).filter((i) => Math.floor((i * Math.min(GROUPS, count)) / count) === group),
  );
}

/** An engine for a song that is rendered: settled from the first sample. */
function settledEngine(song: CompiledSong, sourceOf: SourceOf, kernels: readonly DesignedKernel[]): Engine {
  const engine = new Engine(song.rateHz, sourceOf, false);
  for (const { kernelId, kernel } of kernels) engine.addKernel(kernelId, kernel);
  engine.setSong(song);
  return engine;
}

/** Runs one group of a song's tracks. */
export class TrackGroup {
  private readonly engine: Engine;
  /** What the group gives to the master and to each bus: left and right in turn; valid until the next step. */
  readonly sums: readonly Float64Array[];

  constructor(
    song: CompiledSong,
    sourceOf: SourceOf,
    kernels: readonly DesignedKernel[],
    private readonly trackIndexes: readonly number[],
  ) {
    this.engine = settledEngine(song, sourceOf, kernels);
    this.sums = this.engine.trackSums;
  }

  /** How late the whole song is, frames. */
  get latencyFrames(): number {
    return this.engine.latencyFrames;
  }

  get rateHz(): number {
    return this.engine.rateHz;
  }

  /** @param frames 1 to `MAX_BLOCK` */
  mix(frame: number, frames: number): void {
    this.engine.mixTracks(this.trackIndexes, frame, frames);
  }
}

/** Gives the sums of each group in turn for the block that begins at a frame; blocks are asked for one after the other. */
export type GroupSums = (frame: number, frames: number) => Iterable<readonly Float64Array[]>;

/** All groups in this thread. */
function ownGroups(song: CompiledSong, sourceOf: SourceOf, kernels: readonly DesignedKernel[]): GroupSums {
  const groups = trackGroups(song).map((indexes) => new TrackGroup(song, sourceOf, kernels, indexes));
  return function* (frame, frames) {
    for (const group of groups) {
      group.mix(frame, frames);
      yield group.sums;
    }
  };
}

/** A part begins as it sounds in the song: what rings from before it is run ahead of it for so long, and not heard. */
const PRE_ROLL_SECONDS = 4;

/** The blocks of a render: their places in the song, those in which it runs ahead and the latency runs out first among them. */
export function* renderBlocks(
  range: MixRange,
  { latencyFrames, rateHz }: { latencyFrames: number; rateHz: number },
): Generator<{ frame: number; frames: number }> {
  const end = range.endFrame + latencyFrames;
  let frame = Math.max(Math.min(0, range.startFrame), range.startFrame - PRE_ROLL_SECONDS * rateHz);
  for (let frames; frame < end; frame += frames) {
    const until = frame < range.startFrame + latencyFrames ? range.startFrame + latencyFrames : end;
    frames = Math.min(MAX_BLOCK, until - frame);
    yield { frame, frames };
  }
}

/**
 * The mix of a song, block by block, faster than it plays: by the engine that plays it, settled from the first sample, its latency
 * taken out, and what rings from before a part in it. Yields the same two arrays again and again, valid until the next step; the samples are 64-bit, 0 dBFS = 1.
 * @param sourceOf the samples of a track; undefined is silence
 * @param kernels what the equalizers of linear phase run, see `kernelRequests`
 * @param range the default is the whole song
 * @param groupSums who runs the tracks; the default is this thread
 */
export function* renderMix(
  song: CompiledSong,
  sourceOf: SourceOf,
  kernels: readonly DesignedKernel[] = [],
  range: MixRange = { startFrame: 0, endFrame: song.lengthFrames },
  groupSums: GroupSums = ownGroups(song, sourceOf, kernels),
): Generator<{ left: Float64Array; right: Float64Array; frames: number; frame: number }> {
  const engine = settledEngine(song, () => undefined, kernels);
  const left = new Float64Array(MAX_BLOCK);
  const right = new Float64Array(MAX_BLOCK);
  const sums = engine.trackSums;
  const late = engine.latencyFrames;
  for (const { frame, frames } of renderBlocks(range, engine)) {
    for (const sum of sums) sum.fill(0, 0, frames);
    for (const group of groupSums(frame, frames)) {
      for (let i = 0; i < sums.length; i++) {
        const [sum, part] = [sums[i], group[i]];
        for (let n = 0; n < frames; n++) sum[n] += part[n];
      }
    }
    engine.mixSums(frames, left, right);
    if (frame >= range.startFrame + late) yield { left, right, frames, frame: frame - late };
  }
}
