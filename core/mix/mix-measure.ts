import { rowsOver, SPECTRUM_BANDS, type FrequencyBand, type LevelRows, type StepRange } from '../measure';
import { groupsOf, type Song } from '../song';
import { bandsIn, clearance, sumsIn, type Clearance } from './clearance';
import { blockPowers, blocksOf, excitationOf, type Blocks, type Field } from './fields';
import { clearanceWhere, meetingBlocks, ROOM_TARGET_DB } from './make-room';
import {
  betterEarDb,
  levelField,
  overlapsOf,
  patternLikeness,
  roughLoss,
  passagesOf,
  type LevelField,
  type Overlap,
  type OverlapPassage,
  type PairOverlap,
  type PairParty,
} from './overlaps';
import type { BandLevels } from './part-loudness';
import { passingPowers, type PassingTrack } from './passage-spans';

/** A track as it is measured against the others. */
export interface ClaimingTrack extends PassingTrack {
  claims: readonly FrequencyBand[];
  /** Tracks that are one source with it: they are not in its way. */
  kin?: readonly string[];
  /** Where its part is usually heard; nothing where that is not known. */
  usual?: FrequencyBand | null;
  /** Shares of its power that reach left and right, adding up to 1; the same where it is left out. */
  ears?: readonly [left: number, right: number];
}

/** A group as it is measured: the sum of its tracks. */
export interface ClaimingGroup {
  id: string;
  claims: readonly FrequencyBand[];
  trackIds: readonly string[];
  /** True where it counts as one in overlaps, in place of its tracks. */
  isOne: boolean;
}

/** The groups of a song as they are measured. @param folded ids of those that count as one */
export const claimingGroups = (song: Song, folded: readonly string[] = []): ClaimingGroup[] =>
  groupsOf(song).map(({ bus: { id, claims }, trackIds }) => ({ id, claims, trackIds, isOne: folded.includes(id) }));

/** What is known of a mix over a stretch. */
export interface MixFigures {
  /** By track and group; null where it has no claim, or does not play in it. */
  clearances: Record<string, Clearance | null>;
  overlaps: Overlap[];
}

/** A track or a group as it was measured. */
interface Measured {
  id: string;
  excitation: Float32Array;
  levels: LevelField;
  revision: number;
}
interface MeasuredTrack extends Measured {
  track: ClaimingTrack;
  /** What its recording is measured by; undefined while it is not measured yet. */
  rows: LevelRows | undefined;
}
interface MeasuredGroup extends Measured {
  group: ClaimingGroup;
  tracks: readonly MeasuredTrack[];
}

/** What is known of a pair of tracks, as long as neither is measured anew. */
interface Pair {
  first: Measured;
  second: Measured;
  /** See `roughLoss`. */
  rough: number;
  /** Null while nobody has looked closer. */
  overlaps: { overlap: PairOverlap; passages: OverlapPassage[] | null }[] | null;
  /** What their overlaps were judged by beside their levels. */
  judgedBy: string;
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

/** True where two states of a track are heard alike, over all of its passages. */
function isHeardAlike(first: ClaimingTrack, second: ClaimingTrack): boolean {
  const isSame = (some: Float64Array, others: Float64Array) => some.every((gain, i) => gain === others[i]);
  const [spans, others] = [first.spans ?? [], second.spans ?? []];
  return (
    isSame(first.gains, second.gains) &&
    spans.length === others.length &&
    spans.every(
      ({ from, to, gains }, i) => from === others[i].from && to === others[i].to && isSame(gains, others[i].gains),
    )
  );
}

/** True where all of some tracks are among others. @param ifSame for those that are the same */
const isWithin = (some: readonly string[], others: readonly string[], ifSame: boolean) =>
  some.every((id) => others.includes(id)) && (some.length < others.length || ifSame);

function summed(parts: readonly (Float32Array | Float64Array)[], sum: Float64Array): Float64Array {
  sum.fill(0);
  for (let from = 0; from < sum.length; from += PIECE) {
    const to = Math.min(sum.length, from + PIECE);
    for (const part of parts) for (let i = from; i < to; i++) sum[i] += part[i];
  }
  return sum;
}
const IN_THE_MIDDLE = [0.5, 0.5] as const;
/** Overlaps are listed up to this many. */
const MOST_OVERLAPS = 40;

/**
 * Measures a mix again and again while it is worked on: only what an edit touches is worked out anew, so that sixty tracks follow it
 * within a few frames. The order of the tracks changes nothing.
 */
export class MixMeasure {
  private blocks: Blocks = blocksOf({ from: 0, to: 0 });
  private rangeKey = '';
  private readonly measured = new Map<string, MeasuredTrack>();
  private readonly measuredGroups = new Map<string, MeasuredGroup>();
  private readonly pairs = new Map<string, Map<string, Pair>>();
  /** By id, so that sums are the same in every order of the tracks. */
  private inOrder: MeasuredTrack[] = [];
  private revisions = 0;
  private groups: { key: string; sum: Float64Array }[] = [];
  private all: Float64Array = new Float64Array(0);

  /**
   * @param levels of the recordings; one that is not here yet is silent
   * @param range what is looked at: the loop, or the song
   */
  update(
    tracks: readonly ClaimingTrack[],
    levels: BandLevels,
    range: StepRange,
    groups: readonly ClaimingGroup[] = [],
  ): MixFigures {
    this.measureAll(tracks, levels, range, groups);
    return { clearances: this.clearances(), overlaps: this.overlaps() };
  }

  /** The first half of {@link update}: what {@link fields} and {@link clearanceIn} need. */
  measureAll(
    tracks: readonly ClaimingTrack[],
    levels: BandLevels,
    range: StepRange,
    groups: readonly ClaimingGroup[] = [],
  ): void {
    this.setRange(range);
    const sorted = [...tracks].sort((a, b) => (a.id < b.id ? -1 : 1));
    const ids = new Set([...tracks, ...groups].map(({ id }) => id));
    for (const id of [...this.measured.keys(), ...this.measuredGroups.keys()]) if (!ids.has(id)) this.forget(id);
    for (const track of sorted) this.measure(track, levels);
    this.inOrder = sorted.map(({ id }) => this.measured.get(id)!);
    for (const group of groups) this.measureGroup(group);
    this.sum();
  }

  private forget(id: string): void {
    this.measured.delete(id);
    this.measuredGroups.delete(id);
    this.pairs.delete(id);
    for (const others of this.pairs.values()) others.delete(id);
  }

  private setRange(range: StepRange): void {
    const key = `${range.from}-${range.to}`;
    if (key === this.rangeKey) return;
    this.rangeKey = key;
    this.blocks = blocksOf(range);
    this.measured.clear();
    this.measuredGroups.clear();
    this.pairs.clear();
    this.groups = [];
    this.all = new Float64Array(this.blocks.count * SPECTRUM_BANDS);
  }

  private measure(track: ClaimingTrack, levels: BandLevels): void {
    const rows = rowsOver(levels[track.audioId] ?? [], this.blocks);
    const known = this.measured.get(track.id);
    if (known && known.rows === rows && isHeardAlike(known.track, track)) {
      known.track = track;
      return;
    }
    const excitation = excitationOf(this.heardPowers(track, rows));
    const levelsOf = levelField(excitation);
    this.measured.set(track.id, {
      id: track.id,
      track,
      rows,
      excitation,
      levels: levelsOf,
      revision: ++this.revisions,
    });
  }

  private measureGroup(group: ClaimingGroup): void {
    const tracks = group.trackIds.flatMap((id) => this.measured.get(id) ?? []);
    const known = this.measuredGroups.get(group.id);
    if (known && known.tracks.length === tracks.length && tracks.every((track, i) => known.tracks[i] === track)) {
      known.group = group;
      return;
    }
    const excitation = new Float32Array(this.all.length);
    for (const { excitation: own } of tracks) for (let i = 0; i < excitation.length; i++) excitation[i] += own[i];
    const { id } = group;
    const levels = levelField(excitation);
    this.measuredGroups.set(id, { id, group, tracks, excitation, levels, revision: ++this.revisions });
  }

  /** Worked out again where they are asked for: those of sixty tracks would fill memory. */
  private heardPowers(track: ClaimingTrack, rows: LevelRows | undefined): Float32Array {
    if (!rows) return new Float32Array(this.all.length);
    return passingPowers(blockPowers(rows, track.channels, this.blocks), track, this.blocks);
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

  /** A track or a group against everything else in some ranges. */
  clearanceIn(id: string, ranges: readonly FrequencyBand[]): Clearance | null {
    const track = this.measured.get(id);
    const measured = track ?? this.measuredGroups.get(id);
    const bands = bandsIn(ranges);
    if (!measured || bands.length === 0) return null;
    const { count } = this.blocks;
    const all = sumsIn(this.all, bands, count);
    for (const kin of track?.track.kin ?? []) {
      const own = this.measured.get(kin);
      if (own) sumsIn(own.excitation, bands, count).forEach((power, block) => (all[block] -= power));
    }
    return clearance(sumsIn(measured.excitation, bands, count), all);
  }

  /** The excitation of a track or a group, and of everything, block by block: for what looks closer. */
  fields(id: string): { own: Field; all: Float64Array; blocks: Blocks } | null {
    const track = this.measured.get(id);
    const measured = track ?? this.measuredGroups.get(id);
    if (!measured) return null;
    const powers = new Float32Array(this.all.length);
    for (const { track: each, rows } of track ? [track] : this.measuredGroups.get(id)!.tracks)
      this.heardPowers(each, rows).forEach((power, i) => (powers[i] += power));
    return { own: { powers, excitation: measured.excitation }, all: this.all, blocks: this.blocks };
  }

  /** Pairs of tracks that sound in the same blocks, as one source in two microphones does; among those that are in each other's way. */
  alikePairs(): [string, string][] {
    return this.overlaps()
      .filter(({ quieterId, louderId }) => {
        const [first, second] = [quieterId, louderId].map((id) => this.measured.get(id));
        if (!first || !second) return false;
        return patternLikeness(first.levels, second.levels) >= ALIKE_FROM;
      })
      .map(({ quieterId, louderId }): [string, string] => [quieterId, louderId])
      .filter(([first, second], i, all) => all.findIndex(([a, b]) => a === first && b === second) === i);
  }

  private clearances(): Record<string, Clearance | null> {
    const claiming = [
      ...this.inOrder.map(({ track }) => track),
      ...[...this.measuredGroups.values()].map(({ group }) => group),
    ];
    return Object.fromEntries(claiming.map(({ id, claims }) => [id, this.clearanceIn(id, claims)] as const));
  }

  /** Two tracks, looked at anew where one of them is measured anew. */
  private pairOf(first: Measured, second: Measured): Pair {
    let ofFirst = this.pairs.get(first.id);
    if (!ofFirst) this.pairs.set(first.id, (ofFirst = new Map()));
    const known = ofFirst.get(second.id);
    if (known?.first === first && known.second === second) return known;
    const pair: Pair = { first, second, rough: roughLoss(first.levels, second.levels), overlaps: null, judgedBy: '' };
    ofFirst.set(second.id, pair);
    return pair;
  }

  /** Who may be in whose way: tracks, and groups that count as one in place of theirs; of one within another the outer. */
  private get parties(): Measured[] {
    const ones = [...this.measuredGroups.values()].filter(({ group }) => group.isOne);
    const outer = ones.filter(
      ({ group, id }) =>
        !ones.some((other) => other.id !== id && isWithin(group.trackIds, other.group.trackIds, group.id < other.id)),
    );
    const within = new Set(outer.flatMap(({ group }) => group.trackIds));
    return [...this.inOrder.filter(({ id }) => !within.has(id)), ...outer].sort((a, b) => (a.id < b.id ? -1 : 1));
  }

  private partyOf(id: string): Measured {
    return (this.measuredGroups.get(id) ?? this.measured.get(id))!;
  }

  /** One of a pair: what of it matters, and where it is heard. */
  private partyIn({ id, levels }: Measured): PairParty & { ears: readonly [number, number] } {
    const track = this.measured.get(id)?.track;
    const claims = track?.claims ?? this.measuredGroups.get(id)?.group.claims ?? [];
    return { id, field: levels, claims, usual: track?.usual ?? null, ears: track?.ears ?? IN_THE_MIDDLE };
  }

  /** True where the one that loses stands above the other in their range as far as room would be made: nothing needs to give way. */
  private standsClear({ quieterId, louderId, lowHz, highHz, betterEarDb: ear }: PairOverlap): boolean {
    const bands = bandsIn([{ lowHz, highHz }]);
    const [own, other] = [quieterId, louderId].map((id) =>
      sumsIn(this.partyOf(id).excitation, bands, this.blocks.count),
    );
    const over = clearanceWhere(meetingBlocks(own, other), own, other);
    return over === null || over + ear >= ROOM_TARGET_DB;
  }

  private areKin(first: Measured, second: Measured): boolean {
    return this.measured.get(first.id)?.track.kin?.includes(second.id) ?? false;
  }

  private overlaps(): Overlap[] {
    const all = this.parties.filter(({ levels }) => levels.strength > 0);
    const strongest = all.reduce((most, { levels }) => Math.max(most, levels.strength), 1e-12);
    const pairs = all.flatMap((first, i) =>
      all
        .slice(i + 1)
        .filter((second) => !this.areKin(first, second))
        .map((second) => this.pairOf(first, second)),
    );
    const found: NonNullable<Pair['overlaps']> = [];
    for (const pair of pairs.sort((a, b) => b.rough - a.rough).slice(0, LOOKED_AT_PAIRS)) {
      const [first, second] = [this.partyIn(pair.first), this.partyIn(pair.second)];
      const judgedBy = JSON.stringify([
        first.claims,
        first.usual,
        first.ears,
        second.claims,
        second.usual,
        second.ears,
      ]);
      if (!pair.overlaps || pair.judgedBy !== judgedBy) {
        const ears = { first: betterEarDb(first.ears, second.ears), second: betterEarDb(second.ears, first.ears) };
        pair.judgedBy = judgedBy;
        const found = overlapsOf(first, second, ears, (overlap) => !this.standsClear(overlap));
        pair.overlaps = found.map((overlap) => ({ overlap, passages: null }));
      }
      for (const entry of pair.overlaps) if (entry.overlap.lost >= LEAST_WEIGHT * strongest) found.push(entry);
    }
    return found
      .sort((a, b) => b.overlap.lost - a.overlap.lost || (a.overlap.quieterId < b.overlap.quieterId ? -1 : 1))
      .slice(0, MOST_OVERLAPS)
      .map((entry) => {
        const { lost, ...overlap } = entry.overlap;
        entry.passages ??= passagesOf(
          overlap,
          this.partyOf(overlap.quieterId).levels,
          this.partyOf(overlap.louderId).levels,
          this.blocks,
        );
        return { ...overlap, weight: lost / strongest, passages: entry.passages };
      });
  }
}
