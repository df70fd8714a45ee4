import { type FrequencyBand, SPECTRUM_BANDS, type StepRange } from '../measure';
import { bandsIn, clearance, sumsIn, type Clearance } from './clearance';
import { blockPowers, blocksOf, fieldOf, type Blocks, type Field } from './fields';
import { levelField, overlapsOf, pairLoss, passagesOf, type LevelField, type Overlap, type PairLoss } from './overlaps';
import type { BandLevels } from './part-loudness';
import type { MixTrack } from './way';

/** A track as it is measured against the others. */
export interface ClaimingTrack extends MixTrack {
  claims: readonly FrequencyBand[];
}

/** What is known of a mix over a stretch. */
export interface MixFigures {
  /** By track; null where it has no claim, or does not play in it. */
  clearances: Record<string, Clearance | null>;
  overlaps: Overlap[];
}

interface Measured {
  track: ClaimingTrack;
  field: Field;
  levels: LevelField;
  revision: number;
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
  private readonly powers = new Map<string, Float32Array>();
  private readonly measured = new Map<string, Measured>();
  private readonly pairs = new Map<string, { revisions: string; loss: PairLoss }>();
  private revisions = 0;
  private all = new Float64Array(0);

  /**
   * @param levels of the recordings; one that is not here yet is silent
   * @param range what is looked at: the loop, or the song
   */
  update(tracks: readonly ClaimingTrack[], levels: BandLevels, range: StepRange): MixFigures {
    this.setRange(range);
    const sorted = [...tracks].sort((a, b) => (a.id < b.id ? -1 : 1));
    for (const id of this.measured.keys()) if (!sorted.some((track) => track.id === id)) this.measured.delete(id);
    for (const track of sorted) this.measure(track, levels);
    this.sum();
    return { clearances: this.clearances(), overlaps: this.overlaps() };
  }

  private setRange(range: StepRange): void {
    const key = `${range.from}-${range.to}`;
    if (key === this.rangeKey) return;
    this.rangeKey = key;
    this.blocks = blocksOf(range);
    this.powers.clear();
    this.measured.clear();
    this.pairs.clear();
    this.all = new Float64Array(this.blocks.count * SPECTRUM_BANDS);
  }

  private measure(track: ClaimingTrack, levels: BandLevels): void {
    const known = this.measured.get(track.id);
    const bytes = levels[track.audioId];
    const hasPowers = this.powers.has(track.audioId);
    if (
      known &&
      known.track.audioId === track.audioId &&
      hasPowers === Boolean(bytes) &&
      known.track.gains.every((gain, i) => gain === track.gains[i])
    ) {
      known.track = track;
      return;
    }
    if (bytes && !hasPowers) this.powers.set(track.audioId, blockPowers(bytes, track.channels, this.blocks));
    const powers = this.powers.get(track.audioId) ?? new Float32Array(this.blocks.count * SPECTRUM_BANDS);
    const field = fieldOf(powers, track.gains);
    this.measured.set(track.id, { track, field, levels: levelField(field.excitation), revision: ++this.revisions });
  }

  private inOrder(): Measured[] {
    return [...this.measured.values()].sort((a, b) => (a.track.id < b.track.id ? -1 : 1));
  }

  private sum(): void {
    this.all.fill(0);
    for (const { field } of this.inOrder())
      for (let i = 0; i < this.all.length; i++) this.all[i] += field.excitation[i];
  }

  /** A track against everything else in some ranges. */
  clearanceIn(trackId: string, ranges: readonly FrequencyBand[]): Clearance | null {
    const one = this.measured.get(trackId);
    const bands = bandsIn(ranges);
    if (!one || bands.length === 0) return null;
    const { count } = this.blocks;
    return clearance(sumsIn(one.field.excitation, bands, count), sumsIn(this.all, bands, count));
  }

  /** The excitation of a track, and of everything, block by block: for what looks closer. */
  fields(trackId: string): { own: Field; all: Float64Array; blocks: Blocks } | null {
    const one = this.measured.get(trackId);
    return one ? { own: one.field, all: this.all, blocks: this.blocks } : null;
  }

  private clearances(): Record<string, Clearance | null> {
    return Object.fromEntries(
      this.inOrder().map(({ track }) => [track.id, this.clearanceIn(track.id, track.claims)] as const),
    );
  }

  private overlaps(): Overlap[] {
    const all = this.inOrder().filter(({ levels }) => levels.strength > 0);
    const strongest = all.reduce((most, { levels }) => Math.max(most, levels.strength), 1e-12);
    const found: Overlap[] = [];
    const seen = new Set<string>();
    all.forEach((one, i) => {
      for (const other of all.slice(i + 1)) {
        const key = `${one.track.id} ${other.track.id}`;
        const revisions = `${one.revision} ${other.revision}`;
        let pair = this.pairs.get(key);
        if (pair?.revisions !== revisions) {
          pair = { revisions, loss: pairLoss(one.levels, other.levels) };
          this.pairs.set(key, pair);
        }
        seen.add(key);
        const named = ({ track, levels }: Measured) => ({ id: track.id, field: levels });
        found.push(...overlapsOf(named(one), named(other), pair.loss, strongest));
      }
    });
    for (const key of this.pairs.keys()) if (!seen.has(key)) this.pairs.delete(key);
    return found
      .sort((a, b) => b.weight - a.weight || (a.quieterId < b.quieterId ? -1 : 1))
      .slice(0, MOST_OVERLAPS)
      .map((overlap) => ({
        ...overlap,
        passages: passagesOf(
          overlap,
          this.measured.get(overlap.quieterId)!.levels,
          this.measured.get(overlap.louderId)!.levels,
          this.blocks,
        ),
      }));
  }
}
