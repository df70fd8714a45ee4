import { expose } from 'comlink';
import type { Loop, Song } from '@/core/song';
import { rowsOver, wholeRows, type FrequencyBand, type LevelRows, type StepRange } from '@/core/measure';
import {
  edgeCorner,
  edgeCurve,
  edgeSpot,
  edgeExcitation,
  fieldOf,
  blockPowers,
  blocksOf,
  fullestStretch,
  MixMeasure,
  proposeClaim,
  roomClearanceDb,
  roomMoves,
  roomOwner,
  roomStrength,
  thinRanges,
  type ClaimingTrack,
  type EdgeFilter,
  type EdgePoint,
  type EdgeSpot,
  type MixFigures,
  type Overlap,
  type RoomMoves,
  type RoomParty,
} from '@/core/mix';

/** Measures the mix while it is worked on, away from the page. Thin: the measures are in core/. */
const levels: Record<string, readonly LevelRows[]> = {};
const NO_ROWS = wholeRows(new Uint8Array(0));
const live = new MixMeasure();
/** Looks at other stretches, for edges over the whole song. */
const aside = new MixMeasure();
let heard: readonly ClaimingTrack[] = [];

export interface EdgeRequest {
  trackId: string;
  /** The recording; its gains are from there. */
  audioId: string;
  /** The track's gains without the end that is looked at. */
  gains: Float64Array;
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

export interface RoomRequest {
  overlap: Overlap;
  /** The two tracks as they are without the moves, the quieter one first. */
  tracks: readonly [ClaimingTrack, ClaimingTrack];
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

const mix = {
  setLevels(audioId: string, rows: readonly LevelRows[]): void {
    levels[audioId] = rows;
  },

  forgetLevels(id: string): void {
    delete levels[id];
  },

  update(tracks: ClaimingTrack[], range: StepRange): MixFigures {
    heard = tracks;
    return live.update(tracks, levels, range);
  },

  edge({ trackId, audioId, gains, filter, thresholdLu, range, rateHz }: EdgeRequest): EdgeFigures | null {
    const track = heard.find(({ id }) => id === trackId);
    const rows = track && rowsOver(levels[audioId] ?? [], range);
    if (!rows) return null;
    aside.take(heard, levels, range);
    const fields = aside.fields(trackId)!;
    const blocks = blocksOf(range);
    const rest = fields.all.map((power, i) => Math.max(0, power - fields.own.excitation[i]));
    const edgeTrack = { field: fieldOf(blockPowers(rows, track.channels, blocks), gains), rest, blocks };
    const excitation = edgeExcitation(edgeTrack);
    const inMixHz = edgeCorner(excitation.inMix, filter, rateHz, thresholdLu);
    return {
      curve: edgeCurve(excitation, filter, rateHz),
      aloneHz: edgeCorner(excitation.alone, filter, rateHz, thresholdLu),
      inMixHz,
      spot: inMixHz === null ? null : edgeSpot(edgeTrack, { ...filter, frequencyHz: inMixHz }, rateHz),
    };
  },

  room({ overlap, tracks, range, rateHz, targetDb, withBoost, ownerId, strength }: RoomRequest): RoomFigures {
    const blocks = blocksOf(range);
    const party = ({ id, audioId, channels, gains, claims }: ClaimingTrack): RoomParty => ({
      id,
      claims,
      field: fieldOf(blockPowers(rowsOver(levels[audioId] ?? [], range) ?? NO_ROWS, channels, blocks), gains),
    });
    const parties = [party(tracks[0]), party(tracks[1])] as const;
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

  alikePairs: () => live.alikePairs(),

  claim(trackId: string, part: string): FrequencyBand | null {
    const fields = live.fields(trackId);
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

expose(mix);
