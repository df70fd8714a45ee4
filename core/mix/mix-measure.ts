import { rowsOver, SPECTRUM_BANDS, type FrequencyBand, type LevelRows, type StepRange } from '../measure';
import { bandsIn, clearance, sumsIn, type Clearance } from './clearance';
import { blockPowers, blocksOf, excitationOf, heardPowers, type Blocks, type Field } from './fields';
import {
  levelField,
  overlapsOf,
  patternLikeness,
  roughLoss,
  passagesOf,
  type LevelField,
  type Overlap,
  type OverlapPassage,
  type PairOverlap,
} from './overlaps';
import type { BandLevels } from './part-loudness';
import type { MixTrack } from './gains';

/** A track as it is measured against the others. */
export interface ClaimingTrack extends MixTrack {
  claims: readonly FrequencyBand[];
  /** Tracks that are one source with it: they are not in its way. */
  kin?: readonly string[];
}

/** What is known of a mix over a stretch. */
export interface MixFigures {
  /** By track; null where it has no claim, or does not play in it. */
  clearances: Record<string, Clearance | null>;
  overlaps: Overlap[];
}

interface Measured {
  track: ClaimingTrack;
  /** What its recording is measured by; undefined while it is not measured yet. */
  rows: LevelRows | undefined;
  excitation: Float32Array;
  levels: LevelField;
  revision: number;
}

/** What is known of a pair of tracks, as long as neither is measured anew. */
interface Pair {
  one: Measured;
  other: Measured;
  /** See `roughLoss`. */
  rough: number;
  /** Null while nobody has looked closer. */
  overlaps: { overlap: PairOverlap; passages: OverlapPassage[] | null }[] | null;
}

/** Pairs that are looked at more closely: those that lose most by a rough look, many more than are listed. */
const LOOKED_AT_PAIRS = 160;

/** Two tracks whose levels go up and down together so much may be one source. */
const ALIKE_FROM = 0.6;

/** What is not worth a line beside the strongest track. */
const LEAST_WEIGHT = 0.002;
const GROUP_TRACKS = 8;
/** A sum is formed piece by piece, so that it stays where the processor has it at hand. */
const PIECE = 4096;

function summed(parts: readonly (Float32Array | Float64Array)[], sum: Float64Array): Float64Array {
  sum.fill(0);
  for (let from = 0; from < sum.length; from += PIECE) {
    const to = Math.min(sum.length, from + PIECE);
    for (const part of parts) for (let i = from; i < to; i++) sum[i] += part[i];
  }
  return sum;
}
/** Overlaps are listed up to this many. */
const MOST_OVERLAPS = 40;

/**
 * Measures a mix again and again while it is worked on: only what an edit touches is worked out anew, so that sixty tracks follow it
 * within a few frames. The order of the tracks changes nothing.
 */
export class MixMeasure {
  private blocks: Blocks = blocksOf({ from: 0, to: 0 });
  private rangeKey = '';
  private readonly measured = new Map<string, Measured>();
  private readonly pairs = new Map<string, Map<string, Pair>>();
  /** By id, so that sums are the same in every order of the tracks. */
  private inOrder: Measured[] = [];
  private revisions = 0;
  private groups: { key: string; sum: Float64Array }[] = [];
  private all: Float64Array = new Float64Array(0);

  /**
   * @param levels of the recordings; one that is not here yet is silent
   * @param range what is looked at: the loop, or the song
   */
  update(tracks: readonly ClaimingTrack[], levels: BandLevels, range: StepRange): MixFigures {
    this.take(tracks, levels, range);
    return { clearances: this.clearances(), overlaps: this.overlaps() };
  }

  /** The first half of {@link update}: what {@link fields} and {@link clearanceIn} need. */
  take(tracks: readonly ClaimingTrack[], levels: BandLevels, range: StepRange): void {
    this.setRange(range);
    const sorted = [...tracks].sort((a, b) => (a.id < b.id ? -1 : 1));
    for (const id of this.measured.keys()) if (!sorted.some((track) => track.id === id)) this.forget(id);
    for (const track of sorted) this.measure(track, levels);
    this.inOrder = sorted.map(({ id }) => this.measured.get(id)!);
    this.sum();
  }

  private forget(trackId: string): void {
    this.measured.delete(trackId);
    this.pairs.delete(trackId);
    for (const others of this.pairs.values()) others.delete(trackId);
  }

  private setRange(range: StepRange): void {
    const key = `${range.from}-${range.to}`;
    if (key === this.rangeKey) return;
    this.rangeKey = key;
    this.blocks = blocksOf(range);
    this.measured.clear();
    this.pairs.clear();
    this.groups = [];
    this.all = new Float64Array(this.blocks.count * SPECTRUM_BANDS);
  }

  private measure(track: ClaimingTrack, levels: BandLevels): void {
    const rows = rowsOver(levels[track.audioId] ?? [], this.blocks);
    const known = this.measured.get(track.id);
    if (known && known.rows === rows && known.track.gains.every((gain, i) => gain === track.gains[i])) {
      known.track = track;
      return;
    }
    const excitation = excitationOf(this.heardPowers(track, rows));
    const measured = { track, rows, excitation, levels: levelField(excitation), revision: ++this.revisions };
    this.measured.set(track.id, measured);
  }

  /** Worked out again where they are asked for: those of sixty tracks would fill memory. */
  private heardPowers({ channels, gains }: ClaimingTrack, rows: LevelRows | undefined): Float32Array {
    if (!rows) return new Float32Array(this.all.length);
    return heardPowers(blockPowers(rows, channels, this.blocks), gains);
  }

  /** Groups of tracks are summed by themselves: an edit of one track sums one group anew. */
  private sum(): void {
    const all = this.inOrder;
    const groups: typeof this.groups = [];
    for (let from = 0; from < all.length; from += GROUP_TRACKS) {
      const group = all.slice(from, from + GROUP_TRACKS);
      const key = group.map(({ revision }) => revision).join();
      const known = this.groups[groups.length];
      if (known?.key === key) groups.push(known);
      else
        groups.push({
          key,
          sum: summed(
            group.map(({ excitation }) => excitation),
            known?.sum ?? new Float64Array(this.all.length),
          ),
        });
    }
    this.groups = groups;
    summed(
      groups.map(({ sum }) => sum),
      this.all,
    );
  }

  /** A track against everything else in some ranges. */
  clearanceIn(trackId: string, ranges: readonly FrequencyBand[]): Clearance | null {
    const one = this.measured.get(trackId);
    const bands = bandsIn(ranges);
    if (!one || bands.length === 0) return null;
    const { count } = this.blocks;
    const all = sumsIn(this.all, bands, count);
    for (const id of one.track.kin ?? []) {
      const own = this.measured.get(id);
      if (own) sumsIn(own.excitation, bands, count).forEach((power, block) => (all[block] -= power));
    }
    return clearance(sumsIn(one.excitation, bands, count), all);
  }

  /** The excitation of a track, and of everything, block by block: for what looks closer. */
  fields(trackId: string): { own: Field; all: Float64Array; blocks: Blocks } | null {
    const one = this.measured.get(trackId);
    if (!one) return null;
    const powers = this.heardPowers(one.track, one.rows);
    return { own: { powers, excitation: one.excitation }, all: this.all, blocks: this.blocks };
  }

  /** Pairs of tracks that sound in the same blocks, as one source in two microphones does; among those that are in each other's way. */
  alikePairs(): [string, string][] {
    return this.overlaps()
      .filter(({ quieterId, louderId }) => {
        const [one, other] = [quieterId, louderId].map((id) => this.measured.get(id)!);
        return patternLikeness(one.levels, other.levels) >= ALIKE_FROM;
      })
      .map(({ quieterId, louderId }): [string, string] => [quieterId, louderId])
      .filter(([one, other], i, all) => all.findIndex(([a, b]) => a === one && b === other) === i);
  }

  private clearances(): Record<string, Clearance | null> {
    return Object.fromEntries(
      this.inOrder.map(({ track }) => [track.id, this.clearanceIn(track.id, track.claims)] as const),
    );
  }

  /** Two tracks, looked at anew where one of them is measured anew. */
  private pairOf(one: Measured, other: Measured): Pair {
    let ofOne = this.pairs.get(one.track.id);
    if (!ofOne) this.pairs.set(one.track.id, (ofOne = new Map()));
    const known = ofOne.get(other.track.id);
    if (known?.one === one && known.other === other) return known;
    const pair: Pair = { one, other, rough: roughLoss(one.levels, other.levels), overlaps: null };
    ofOne.set(other.track.id, pair);
    return pair;
  }

  private overlaps(): Overlap[] {
    const all = this.inOrder.filter(({ levels }) => levels.strength > 0);
    const strongest = all.reduce((most, { levels }) => Math.max(most, levels.strength), 1e-12);
    const pairs = all.flatMap((one, i) =>
      all
        .slice(i + 1)
        .filter(({ track }) => !one.track.kin?.includes(track.id))
        .map((other) => this.pairOf(one, other)),
    );
    const found: NonNullable<Pair['overlaps']> = [];
    const named = ({ track, levels }: Measured) => ({ id: track.id, field: levels });
    for (const pair of pairs.sort((a, b) => b.rough - a.rough).slice(0, LOOKED_AT_PAIRS)) {
      pair.overlaps ??= overlapsOf(named(pair.one), named(pair.other)).map((overlap) => ({ overlap, passages: null }));
      for (const entry of pair.overlaps) if (entry.overlap.lost >= LEAST_WEIGHT * strongest) found.push(entry);
    }
    return found
      .sort((a, b) => b.overlap.lost - a.overlap.lost || (a.overlap.quieterId < b.overlap.quieterId ? -1 : 1))
      .slice(0, MOST_OVERLAPS)
      .map((entry) => {
        const { lost, ...overlap } = entry.overlap;
        entry.passages ??= passagesOf(
          overlap,
          this.measured.get(overlap.quieterId)!.levels,
          this.measured.get(overlap.louderId)!.levels,
          this.blocks,
        );
        return { ...overlap, weight: lost / strongest, passages: entry.passages };
      });
  }
}
