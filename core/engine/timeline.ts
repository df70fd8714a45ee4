import type { StripPassage } from '../passages';
import { bandsOf, givesWay, withEqualizers, type Band, type Chain, type Strip } from '../song';
import type { CompiledStrip } from './compile';
import type { CompiledStage } from './compile-chain';
import { knot, piecesOf, type Piece } from './pieces';

/** What of a strip a passage may change. */
export type TimelineState = Pick<CompiledStrip, 'gain' | 'leftGain' | 'rightGain' | 'audible' | 'sends' | 'chain'>;

/** A stretch of a strip between two borders: it holds until the next one begins. */
export interface TimelineSegment {
  /** Frame of the song; −∞ for the first. */
  from: number;
  start: TimelineState;
  /** What it moves to; null where nothing moves. */
  end: TimelineState | null;
  /** For each stage of the chain, the number of the next segment that begins with something that is no move of what was before; −1 where there is none. */
  nextJumps: readonly number[];
}
export type Timeline = readonly TimelineSegment[];
const NO_JUMPS: readonly number[] = [];

/** A filter that jumps farther than this, by ratio, is another one: the sound goes over, and no sweep is heard. */
const FARTHEST_MOVED = 1.5;

const ratio = (first: number, second: number) => Math.max(first / second, second / first);

/** The band of a piece is no move of that of the piece before. */
const isFar = (first: Band, second: Band) =>
  ratio(first.frequencyHz, second.frequencyHz) > FARTHEST_MOVED || ratio(first.q, second.q) > FARTHEST_MOVED;

/** The chains of a strip's pieces, in which a band that jumps has another name from there on. */
class Names {
  private versions = new Map<string, number>();
  private last: ReadonlyMap<string, Band> = new Map();

  /** The names from a piece on. @param piece the one after the last that was given */
  next({ start, end }: Piece): (chain: Chain) => Chain {
    const byId = (strip: Strip) => new Map(bandsOf(strip).map((band) => [band.id, band]));
    for (const [id, band] of byId(start)) {
      const before = this.last.get(id);
      if (before && before !== band && !givesWay(band) && isFar(before, band))
        this.versions.set(id, (this.versions.get(id) ?? 0) + 1);
    }
    this.last = byId(end ?? start);
    const versions = new Map(this.versions);
    const named = (band: Band) =>
      versions.has(band.id) ? { ...band, id: `${band.id}~${versions.get(band.id)}` } : band;
    if (versions.size === 0) return (chain) => chain;
    return (chain) => withEqualizers(chain, (equalizer) => ({ ...equalizer, bands: equalizer.bands.map(named) }));
  }
}

/** True where a stage becomes another one, which cannot be reached by a move. */
function isJump(last: CompiledStage, stage: CompiledStage): boolean {
  if (stage.kind === 'cascade' && last.kind === 'cascade')
    return (
      stage.sections.length !== last.sections.length ||
      stage.sections.some(({ key, g, k }, n) => {
        const section = last.sections[n];
        return key !== section.key || ratio(g, section.g) > FARTHEST_MOVED || ratio(k, section.k) > FARTHEST_MOVED;
      })
    );
  if (stage.kind === 'convolution' && last.kind === 'convolution') return stage.kernelId !== last.kernelId;
  return stage.kind === 'processor' && last.kind === 'processor' && stage.settings.enabled !== last.settings.enabled;
}

/** A stage other than a convolution, which moves by jumps, becomes another one. */
const isCut = (before: TimelineState, after: TimelineState) =>
  after.chain.stages.some((stage, i) => stage.kind !== 'convolution' && isJump(before.chain.stages[i], stage));

/**
 * What passages make of a strip over the song.
 * @param base the strip without passages, compiled
 * @param compile a strip of the song with a chain in the place of its own; all of them with the same stages
 */
export function compileTimeline(
  strip: Strip,
  passages: readonly StripPassage[],
  rateHz: number,
  base: TimelineState,
  compile: (strip: Strip, chain: Chain) => TimelineState,
): Timeline {
  const names = new Names();
  const segments = piecesOf(strip, passages, rateHz).flatMap((piece): TimelineSegment[] => {
    const named = names.next(piece);
    const state = (made: Strip) => (made === strip ? base : compile(made, named(made.chain)));
    /** On its way a filter may become one of other sections: what lies around that is cut finely, since nothing moves across it. */
    const segmentsOf = ({ from, start, end, until, at }: Piece): TimelineSegment[] => {
      const segment = { from, start: state(start), end: end && state(end), nextJumps: NO_JUMPS };
      const half = at ? knot(from, until!, 0.5) : from;
      if (!segment.end || half <= from || half >= until! || !isCut(segment.start, segment.end)) return [segment];
      const middle = at!(half);
      return [
        ...segmentsOf({ from, start, end: middle, until: half, at }),
        ...segmentsOf({ from: half, start: middle, end, until, at }),
      ];
    };
    return segmentsOf(piece);
  });
  const jumps = base.chain.stages.map(() => -1);
  for (let i = segments.length - 1; i >= 0; i--) {
    const { start, end } = segments[i];
    segments[i + 1]?.start.chain.stages.forEach((stage, n) => {
      // A convolution does not move within a segment.
      const { stages } = (stage.kind === 'convolution' ? start : (end ?? start)).chain;
      if (isJump(stages[n], stage)) jumps[n] = i + 1;
    });
    segments[i].nextJumps = [...jumps];
  }
  return segments;
}
