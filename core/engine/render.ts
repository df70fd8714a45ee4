import { latencyOf, type Kernels } from './chain-runner';
import { boundTracks, chainsOverTime, statesOf, type CompiledSong } from './compile';
import { ringSeconds } from '../processors';
import { MAX_BLOCK } from './kernel/layout';
import { cutsOf, type TimelineCuts } from './follow';
import type { DesignedKernel } from './kernels';
import { KeyTaps } from './keys';
import { planLatency, type LatencyPlan } from './latency';
import { MixSection } from './mix-section';
import type { SourceOf } from './source';
import type { StripEars } from './strip-ears';
import { allSums, Sum, type Sums } from './sum';
import { TrackSection } from './track-section';

/** A stretch of the song, in frames. */
export interface MixRange {
  startFrame: number;
  endFrame: number;
}

/** Tracks are added up in so many groups, one after the other: so a mix is the same to the last bit however many threads work at it. */
const GROUPS = 8;

/** The numbers of the tracks of each group; those that wait for others are in none. */
export function trackGroups(song: CompiledSong): number[][] {
  const bound = boundTracks(song);
  const free = song.tracks.map((_, i) => i).filter((i) => !bound.includes(i));
  const groups = Math.min(GROUPS, free.length);
  return Array.from({ length: groups }, (_, group) =>
    free.filter((__, i) => Math.floor((i * groups) / free.length) === group),
  );
}

const kernelMap = (kernels: readonly DesignedKernel[]): Kernels =>
  new Map(kernels.map(({ kernelId, kernel }) => [kernelId, kernel]));

const sumsFor = (song: CompiledSong): Sums => ({ master: new Sum(), buses: song.buses.map(() => new Sum()) });

function songLatency(song: CompiledSong, kernels: Kernels): LatencyPlan {
  return planLatency(song, (strip) =>
    latencyOf(strip === 'master' ? song.masterChain : strip.chain, kernels, song.rateHz),
  );
}

/** What the blocks of a render depend on. */
export interface RenderTiming {
  /** How late the whole of the song is. */
  latencyFrames: number;
  rateHz: number;
  /** How long they run ahead of a part. */
  preRollSeconds: number;
  /** Where passages cut them. */
  cuts: TimelineCuts;
}

/** A part begins as it sounds in the song: what rings from before it is run ahead of it for so long at least and at most, and not heard. */
const SHORTEST_PRE_ROLL_SECONDS = 4;
const LONGEST_PRE_ROLL_SECONDS = 30;

/** As long as what rings longest in the song, at any time of it. */
function preRollOf(song: CompiledSong): number {
  const rings = chainsOverTime(song)
    .flatMap(statesOf)
    .flatMap(({ stages }) => stages.map((stage) => (stage.kind === 'processor' ? ringSeconds(stage.settings) : 0)));
  const longest = rings.reduce((most, seconds) => Math.max(most, seconds), SHORTEST_PRE_ROLL_SECONDS);
  return Math.min(LONGEST_PRE_ROLL_SECONDS, longest);
}

const timingOf = (song: CompiledSong, latency: LatencyPlan): RenderTiming => ({
  latencyFrames: latency.total,
  rateHz: song.rateHz,
  preRollSeconds: preRollOf(song),
  cuts: cutsOf(song, latency),
});

export const renderTiming = (song: CompiledSong, kernels: readonly DesignedKernel[]): RenderTiming =>
  timingOf(song, songLatency(song, kernelMap(kernels)));

/** Runs one group of a song's tracks, and holds no others. */
export class TrackGroup {
  private readonly tracks: TrackSection;
  private readonly all: Sum[];
  /** What the group gives to the master and to each bus: left and right in turn; valid until the next step. */
  readonly sums: readonly Float64Array[];

  constructor(
    song: CompiledSong,
    sourceOf: SourceOf,
    kernels: readonly DesignedKernel[],
    trackIndexes: readonly number[],
    ears: StripEars | null = null,
  ) {
    const sums = sumsFor(song);
    const byId = kernelMap(kernels);
    const { tracks: waits, places } = songLatency(song, byId);
    this.all = allSums(sums);
    this.sums = this.all.flatMap(({ left, right }) => [left, right]);
    this.tracks = new TrackSection(song.rateHz, sourceOf, sums, null, new KeyTaps(), ears);
    this.tracks.set(
      trackIndexes.map((i) => song.tracks[i]),
      { waits: trackIndexes.map((i) => waits[i]), places: trackIndexes.map((i) => places.tracks[i]), frame: 0 },
      byId,
      true,
    );
  }

  /** @param frames 1 to `MAX_BLOCK` */
  mix(frame: number, frames: number): void {
    for (const sum of this.all) sum.clear(frames);
    this.tracks.process(frame, frames);
  }

  /** Gives back what it holds: it must not be used again. */
  release(): void {
    this.tracks.release();
    for (const sum of this.all) sum.release();
  }
}

/** Those who run the groups of a song's tracks. */
export interface GroupRunners {
  /** The sums of each group in turn for the block that begins at a frame; blocks are asked for one after the other. */
  block(frame: number, frames: number): Iterable<readonly Float64Array[]>;
  /** All blocks were asked for, before the end. */
  finish?(): void;
  /** No more blocks are asked for. */
  end(): void;
}

/** All groups in this thread. */
function ownGroups(
  song: CompiledSong,
  sourceOf: SourceOf,
  kernels: readonly DesignedKernel[],
  ears: StripEars | null,
): GroupRunners {
  const groups = trackGroups(song).map((indexes) => new TrackGroup(song, sourceOf, kernels, indexes, ears));
  return {
    *block(frame, frames) {
      for (const group of groups) {
        group.mix(frame, frames);
        yield group.sums;
      }
    },
    end: () => groups.forEach((group) => group.release()),
  };
}

/** Some frames of a mix: of the two arrays so many hold it. */
export interface MixBlock {
  left: Float64Array;
  right: Float64Array;
  frames: number;
  /** Where in the song they begin. */
  frame: number;
}

const LONGER_BLOCK = 4096;

/**
 * The same mix in longer blocks, for what has more to do for a block than for its samples. Yields the same two arrays again and again, valid until
 * the next step.
 */
export function* inLongerBlocks(blocks: Iterable<MixBlock>): Generator<MixBlock> {
  const [left, right] = [new Float64Array(LONGER_BLOCK), new Float64Array(LONGER_BLOCK)];
  const held: MixBlock = { left, right, frames: 0, frame: 0 };
  for (const block of blocks) {
    if (held.frames + block.frames > LONGER_BLOCK) {
      yield held;
      held.frames = 0;
    }
    if (held.frames === 0) held.frame = block.frame;
    left.set(block.left.subarray(0, block.frames), held.frames);
    right.set(block.right.subarray(0, block.frames), held.frames);
    held.frames += block.frames;
  }
  if (held.frames > 0) yield held;
}

/** The blocks of a render: their places in the song, those in which it runs ahead and the latency runs out first among them. */
export function* renderBlocks(
  range: MixRange,
  { latencyFrames, rateHz, preRollSeconds, cuts }: RenderTiming,
): Generator<{ frame: number; frames: number }> {
  const end = range.endFrame + latencyFrames;
  let frame = Math.max(Math.min(0, range.startFrame), range.startFrame - Math.round(preRollSeconds * rateHz));
  for (let frames; frame < end; frame += frames) {
    const until = frame < range.startFrame + latencyFrames ? range.startFrame + latencyFrames : end;
    frames = cuts.runLength(frame, Math.min(MAX_BLOCK, until - frame));
    yield { frame, frames };
  }
}

/**
 * The mix of a song, block by block, faster than it plays: by the engine that plays it, settled from the first sample, its latency
 * taken out, and what rings from before a part in it. Yields the same two arrays again and again, valid until the next step; the samples are 64-bit, 0 dBFS = 1.
 * @param sourceOf the samples of a track; undefined is silence
 * @param kernels what the equalizers of linear phase run, see `kernelRequests`
 * @param range the default is the whole song
 * @param ears hear strips of what this thread runs by themselves; what they hold is told when all of it was rendered
 * @param groups who runs the tracks; the default is this thread
 */
export function* renderMix(
  song: CompiledSong,
  sourceOf: SourceOf,
  kernels: readonly DesignedKernel[] = [],
  range: MixRange = { startFrame: 0, endFrame: song.lengthFrames },
  ears: StripEars | null = null,
  groups: GroupRunners = ownGroups(song, sourceOf, kernels, ears),
): Generator<MixBlock> {
  const byId = kernelMap(kernels);
  const latency = songLatency(song, byId);
  const late = latency.total;
  const sums = sumsFor(song);
  const all = allSums(sums);
  const keys = new KeyTaps();
  const bound = new TrackSection(song.rateHz, sourceOf, sums, null, keys, ears);
  const indexes = boundTracks(song);
  const boundIds = new Set(indexes.map((index) => song.tracks[index].id));
  bound.set(
    indexes.map((index) => song.tracks[index]),
    {
      waits: indexes.map((index) => latency.tracks[index]),
      places: indexes.map((index) => latency.places.tracks[index]),
      frame: 0,
    },
    byId,
    true,
    boundIds,
  );
  const mix = new MixSection(song.rateHz, sums, null, keys, bound, ears);
  mix.set(song, latency, byId, 0, true, true);
  const left = new Float64Array(MAX_BLOCK);
  const right = new Float64Array(MAX_BLOCK);
  try {
    for (const { frame, frames } of renderBlocks(range, timingOf(song, latency))) {
      for (const sum of all) sum.clear(frames);
      for (const group of groups.block(frame, frames))
        for (let i = 0; i < all.length; i++) all[i].add(group[2 * i], group[2 * i + 1], frames);
      bound.process(frame, frames);
      mix.process(frame, frames, left, right);
      if (frame >= range.startFrame + late) yield { left, right, frames, frame: frame - late };
    }
    groups.finish?.();
    ears?.flush();
  } finally {
    groups.end();
    ears?.release();
    mix.release();
    bound.release();
    for (const sum of all) sum.release();
  }
}
