import type { Loop, Song } from '@/core/song';
import { rowsOver, SPECTRUM_BANDS, type FrequencyBand, type LevelRows, type StepRange } from '@/core/measure';
import {
  edgeCorner,
  edgeCurve,
  edgeSpot,
  edgeExcitation,
  excitationOf,
  blockPowers,
  blocksOf,
  fullestStretch,
  MixMeasure,
  passingPowers,
  planRoom,
  proposeHighPass,
  proposeLowPass,
  proposeClaim,
  roomClearanceDb,
  roomMoves,
  roomOwner,
  roomStrength,
  thinRanges,
  type ClaimingGroup,
  type ClaimingTrack,
  type EdgeFilter,
  type EdgePoint,
  type EdgeSpot,
  type EdgeTrack,
  type MixFigures,
  type Overlap,
  type PassingTrack,
  type ProposedEnd,
  type RoomMoves,
  type RoomParty,
  type RoomPlan,
  type RoomOptions,
} from '@/core/mix';
import { offer } from './offer';

/** Measures the mix while it is worked on, away from the page. Thin: the measures are in core/. */
const levels: Record<string, readonly LevelRows[]> = {};
const live = new MixMeasure();
/** Looks at other stretches, for edges over the whole song. */
const aside = new MixMeasure();
let heard: { tracks: readonly ClaimingTrack[]; groups: readonly ClaimingGroup[] } = { tracks: [], groups: [] };

export interface EdgeRequest {
  stripId: string;
  /** The track, or the tracks of a group, with their gains without the end that is looked at. */
  sources: readonly PassingTrack[];
  filter: EdgeFilter;
  thresholdLu: number;
  range: StepRange;
  rateHz: number;
}

export interface EdgeFigures {
  curve: EdgePoint[];
  aloneHz: number | null;
  inMixHz: number | null;
  /** What limits the corner in the mix. */
  spot: EdgeSpot | null;
}

export interface EndsRequest {
  stripId: string;
  named: { part: string; name: string };
  /** The track with its gains without either end. */
  sources: readonly PassingTrack[];
  filters: Record<'high-pass' | 'low-pass', EdgeFilter>;
  /** The whole song, and its parts. */
  range: StepRange;
  parts: readonly StepRange[];
  wanted: readonly FrequencyBand[];
  isBold: boolean;
  rateHz: number;
}

/** A track, or a group by its tracks. */
export interface RoomSource {
  id: string;
  claims: readonly FrequencyBand[];
  sources: readonly PassingTrack[];
}

export interface RoomRequest {
  overlap: Overlap;
  /** The two tracks or groups as they are without the moves, the quieter one first. */
  parties: readonly [RoomSource, RoomSource];
  range: StepRange;
  rateHz: number;
  targetDb: number;
  withBoost: boolean;
  /** Null for the one whose range it is. */
  ownerId: string | null;
  /** Null for the smallest that reaches the target. */
  strength: number | null;
}

export interface RoomFigures {
  moves: RoomMoves;
  strength: number;
  beforeDb: number | null;
  afterDb: number | null;
}

export interface WholeRoomRequest extends RoomOptions {
  tracks: readonly ClaimingTrack[];
  range: StepRange;
}

/** Powers of some tracks together as they reach the ears; null while the levels of one are not here. */
function powersOf(sources: readonly PassingTrack[], range: StepRange): Float32Array | null {
  const blocks = blocksOf(range);
  const sum = new Float32Array(blocks.count * SPECTRUM_BANDS);
  for (const source of sources) {
    const rows = rowsOver(levels[source.audioId] ?? [], range);
    if (!rows) return null;
    const powers = passingPowers(blockPowers(rows, source.channels, blocks), source, blocks);
    for (let i = 0; i < sum.length; i++) sum[i] += powers[i];
  }
  return sources.length > 0 ? sum : null;
}

/** A track without the end that is looked at, and everything else; null while its levels are not here. */
function edgeTrackOf(stripId: string, sources: readonly PassingTrack[], range: StepRange): EdgeTrack | null {
  const own = powersOf(sources, range);
  aside.measureAll(heard.tracks, levels, range, heard.groups);
  const fields = aside.fields(stripId);
  if (!fields || !own) return null;
  const rest = fields.all.map((power, i) => Math.max(0, power - fields.own.excitation[i]));
  return { field: { powers: own, excitation: excitationOf(own) }, rest, blocks: blocksOf(range) };
}

const mix = {
  setLevels(audioId: string, rows: readonly LevelRows[]): void {
    levels[audioId] = rows;
  },

  forgetLevels(id: string): void {
    delete levels[id];
  },

  update(tracks: ClaimingTrack[], range: StepRange, groups: ClaimingGroup[]): MixFigures {
    heard = { tracks, groups };
    return live.update(tracks, levels, range, groups);
  },

  edge({ stripId, sources, filter, thresholdLu, range, rateHz }: EdgeRequest): EdgeFigures | null {
    const edgeTrack = edgeTrackOf(stripId, sources, range);
    if (!edgeTrack) return null;
    const excitation = edgeExcitation(edgeTrack);
    const inMixHz = edgeCorner(excitation.inMix, filter, rateHz, thresholdLu);
    return {
      curve: edgeCurve(excitation, filter, rateHz),
      aloneHz: edgeCorner(excitation.alone, filter, rateHz, thresholdLu),
      inMixHz,
      spot: inMixHz === null ? null : edgeSpot(edgeTrack, { ...filter, frequencyHz: inMixHz }, rateHz),
    };
  },

  ends({
    stripId,
    named,
    sources,
    filters,
    range,
    parts,
    ...options
  }: EndsRequest): Record<'high-pass' | 'low-pass', ProposedEnd | null> {
    const track = edgeTrackOf(stripId, sources, range);
    if (!track) return { 'high-pass': null, 'low-pass': null };
    const { stepsPerBlock, count } = track.blocks;
    const blockAt = (step: number) => Math.min(count, Math.floor((step - range.from) / stepsPerBlock));
    const within = { ...options, parts: parts.map(({ from, to }) => ({ from: blockAt(from), to: blockAt(to) })) };
    return {
      'high-pass': proposeHighPass(track, named, filters['high-pass'], within),
      'low-pass': proposeLowPass(track, filters['low-pass'], within),
    };
  },

  room({ overlap, parties: wanted, range, rateHz, targetDb, withBoost, ownerId, strength }: RoomRequest): RoomFigures {
    const blocks = blocksOf(range);
    const party = ({ id, claims, sources }: RoomSource): RoomParty => {
      const powers = powersOf(sources, range) ?? new Float32Array(blocks.count * SPECTRUM_BANDS);
      return { id, claims, field: { powers, excitation: excitationOf(powers) } };
    };
    const parties = [party(wanted[0]), party(wanted[1])] as const;
    const choice = { ownerId: ownerId ?? roomOwner(overlap, parties), withBoost };
    const found = strength ?? roomStrength(overlap, parties, blocks, rateHz, { targetDb, ...choice });
    const clearanceAt = (share: number) =>
      roomClearanceDb(overlap, roomMoves(overlap, parties, share, choice), parties, blocks, rateHz);
    return {
      moves: roomMoves(overlap, parties, found, choice),
      strength: found,
      beforeDb: clearanceAt(0),
      afterDb: clearanceAt(found),
    };
  },

  wholeRoom({ tracks, range, ...options }: WholeRoomRequest, onProgress: (share: number) => void): RoomPlan {
    const parties = tracks.flatMap(({ id, claims, kin, ...track }) => {
      const powers = powersOf([{ id, ...track }], range);
      return powers ? [{ id, claims, kin, field: { powers, excitation: excitationOf(powers) } }] : [];
    });
    return planRoom(parties, blocksOf(range).count, options, onProgress);
  },

  alikePairs: () => live.alikePairs(),

  claim(stripId: string, part: string): FrequencyBand | null {
    const fields = live.fields(stripId);
    return fields && proposeClaim(part, fields.own, fields.all, fields.blocks);
  },

  space(trackId: string): FrequencyBand[] {
    const fields = live.fields(trackId);
    return fields ? thinRanges(fields.own, fields.all, fields.blocks) : [];
  },

  stretch(song: Song): Loop | null {
    return fullestStretch(song, levels);
  },
};

export type MixWorker = typeof mix;

offer(mix);
