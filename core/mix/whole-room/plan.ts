import { designBand, magnitudesDb } from '../../filters';
import { SPECTRUM_BAND_EDGES, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, type FrequencyBand } from '../../measure';
import { BAND_DEFAULTS, GIVES_ALL_DB, type BandSettings } from '../../song';
import { ROOM_TARGET_DB } from '../make-room';
import { RoomState, type RoomChange, type RoomTrack } from './room-state';

/** How far one may go to make room. */
export interface RoomLimits {
  /** How far every claim is to stand clear, dB. */
  goalDb: number;
  /** The deepest cut, dB, and the most moves on a track. */
  mostCutDb: number;
  mostMoves: number;
  /** What a track may lose of what is heard of it, LU. */
  mostLossLu: number;
  boosts: boolean;
  levels: boolean;
  givingWay: boolean;
}

export const ROOM_LIMITS: RoomLimits = {
  goalDb: ROOM_TARGET_DB,
  mostCutDb: 6,
  mostMoves: 3,
  mostLossLu: 1.5,
  boosts: true,
  levels: false,
  givingWay: true,
};

export const ROOM_MOVE_KINDS = ['end', 'cut', 'gives-way', 'boost', 'level'] as const;
export type RoomMoveKind = (typeof ROOM_MOVE_KINDS)[number];

/** One move of a plan: what is done to a track, for whom, and what that wins and costs. */
export interface RoomMove {
  /** The same for the same move of another plan. */
  key: string;
  kind: RoomMoveKind;
  trackId: string;
  /** The one that it makes room for; the track itself for a boost of its own. */
  forId: string;
  /** The band that is set; null for a level. How it gives way is said by `kind`. */
  band: BandSettings | null;
  /** Of a level: by how much it changes, dB. Of others the gain that is reached in the middle. */
  gainDb: number;
  /** Of a band that gives way: from which level of the other, in its claim, it begins to, dB at the ears. */
  thresholdDb: number;
  /** Clearances that it moves by half a dB and more, the most first. */
  wins: { trackId: string; beforeDb: number; afterDb: number }[];
  /** What it takes of what is heard of the track, LU. */
  lossLu: number;
}

/** A claim that does not come to its goal. */
export interface RoomLack {
  trackId: string;
  clearanceDb: number;
  /** Who stands in it most, and how much of all that does is theirs, 0 to 1. */
  worstId: string;
  worstShare: number;
  /** What it would take: a level, or another arrangement. */
  why: 'level' | 'crowd' | 'limits';
}

export interface RoomPlan {
  moves: RoomMove[];
  lacks: RoomLack[];
  /** Clearances of all claims before and after, dB. */
  clearances: { trackId: string; beforeDb: number; afterDb: number }[];
}

/** A move that brings less than this in all is not proposed, dB; a claim that lacks no more than this is left. */
const LEAST_WIN_DB = 0.5;
const LEAST_LACK_DB = 0.25;
/** Only who has this share of what stands in a claim is asked to give way. */
const LEAST_SHARE = 0.12;
/** A band that gives way is used where the two play together for less than this share of the time. */
const NOW_AND_THEN = 0.6;
const DEPTHS_DB = [2, 3, 4.5, 6, 8, 10, 12];
const BOOST_DB = 2;
const LEVEL_DB = 1.5;
/** What a move costs beyond its loss: a band more to look after. */
const MOVE_COST_LU = 0.3;
const DEEPER_COST_LU = 0.1;
/** What a boost, and a cut in a track's own claim, count for beyond what they take. */
const UNWELCOME_LU = 1;
/** The most that a boost may add, LU. */
const MOST_BOOST_LU = 1;
/** One that has this share of what stands in a claim is who it is about; else it is many. */
const LEAST_ONE_SHARE = 0.4;
/** An end may take this much of what is heard of its track, LU. */
const MOST_END_LOSS_LU = 0.2;
const Q_RANGE = { min: 0.6, max: 4 };
/** A bell reaches over the bands that have this share of the worst one's part in the trouble. */
const RANGE_EDGE = 0.45;

const gainsOf = (band: BandSettings, rateHz: number) =>
  Float64Array.from(magnitudesDb(designBand(band, rateHz), SPECTRUM_CENTERS_HZ, rateHz), (db) => 10 ** (db / 10));
const tidy = (hz: number) => Number(hz.toPrecision(2));

/** The range in which one stands in another's claim most. */
function worstRange(byBand: Float64Array): FrequencyBand {
  const top = byBand.indexOf(Math.max(...byBand));
  let [first, last] = [top, top];
  while (byBand[first - 1] >= RANGE_EDGE * byBand[top]) first--;
  while (byBand[last + 1] >= RANGE_EDGE * byBand[top]) last++;
  return { lowHz: SPECTRUM_BAND_EDGES[first].lowHz, highHz: SPECTRUM_BAND_EDGES[last].highHz };
}

const bellOver = ({ lowHz, highHz }: FrequencyBand, gainDb: number): BandSettings => {
  const octaves = Math.log2(highHz / lowHz);
  const q = 1 / (2 * Math.sinh((Math.LN2 / 2) * octaves));
  return {
    ...BAND_DEFAULTS,
    type: 'bell',
    frequencyHz: tidy(Math.sqrt(lowHz * highHz)),
    gainDb,
    q: Number(Math.min(Q_RANGE.max, Math.max(Q_RANGE.min, q)).toPrecision(2)),
  };
};

/** A move as it is weighed. */
interface Candidate extends Omit<RoomMove, 'wins' | 'lossLu'> {
  change: RoomChange;
  /** The move that it takes deeper. */
  made: RoomMove | null;
}

/** Plans room for all claims of a mix at once. */
class Planner {
  private readonly state: RoomState;
  private readonly claims: string[];
  private readonly moves: RoomMove[] = [];

  constructor(
    private readonly tracks: readonly RoomTrack[],
    blocks: number,
    private readonly limits: RoomLimits,
    private readonly rateHz: number,
    /** Those whose moves are wanted. */
    private readonly mayMove: ReadonlySet<string>,
    private readonly refused: ReadonlySet<string>,
    private readonly before: NonNullable<RoomOptions['made']>,
  ) {
    this.state = new RoomState(tracks, blocks);
    this.claims = tracks.filter(({ claims }) => claims.length > 0).map(({ id }) => id);
  }

  private clearances(): Map<string, number> {
    return new Map(
      this.claims.flatMap((id) => {
        const db = this.state.clearanceDb(id);
        return db === null ? [] : [[id, db]];
      }),
    );
  }

  /** What claims lack in all, dB: the further one is from its goal, the more each dB of it counts. */
  private lackOf(clearances: ReadonlyMap<string, number>): number {
    let sum = 0;
    for (const db of clearances.values()) {
      const lack = Math.max(0, this.limits.goalDb - db);
      sum += lack + 0.02 * lack * lack;
    }
    return sum;
  }

  private hasRoomForMove = (id: string) =>
    [...this.before, ...this.moves].filter(({ trackId }) => trackId === id).length < this.limits.mostMoves;

  private candidatesFor(forId: string): Candidate[] {
    const { state, limits, rateHz } = this;
    const plays = state.playsInClaim(forId);
    const found: Candidate[] = [];
    const add = (kind: RoomMoveKind, trackId: string, band: BandSettings | null, gainDb: number) => {
      const key = `${kind} ${trackId} ${forId}`;
      if (this.refused.has(key) || !this.mayMove.has(trackId)) return;
      const made = this.moves.find((move) => move.key === key);
      const isDeeper = kind !== 'level' && made !== undefined && gainDb < made.gainDb;
      if (made ? !isDeeper : !this.hasRoomForMove(trackId)) return;
      // What is there already goes deeper where it is.
      const shape = made?.band && band ? { ...made.band, gainDb } : band;
      const gains = shape ? gainsOf(shape, rateHz) : flat(gainDb);
      const before = made?.band ? gainsOf(made.band, rateHz) : null;
      found.push({
        key,
        kind,
        trackId,
        forId,
        band: shape,
        gainDb,
        thresholdDb: kind === 'gives-way' ? state.playedDb(forId) - GIVES_ALL_DB : 0,
        made: made ?? null,
        change: {
          trackId,
          gains: before ? gains.map((gain, i) => gain / before[i]) : gains,
          when: kind === 'gives-way' ? plays : null,
        },
      });
    };
    for (const { trackId, share, byBand } of state.inTheWay(forId)) {
      if (share < LEAST_SHARE) break;
      const range = worstRange(byBand);
      for (const end of this.endsBeyond(range))
        if (state.lossLu({ trackId, gains: gainsOf(end, rateHz), when: null }) <= MOST_END_LOSS_LU)
          add('end', trackId, end, 0);
      const isNowAndThen = limits.givingWay && state.togetherShare(trackId, plays) < NOW_AND_THEN;
      for (const depth of DEPTHS_DB.filter((db) => db <= limits.mostCutDb))
        add(isNowAndThen ? 'gives-way' : 'cut', trackId, bellOver(range, -depth), -depth);
      if (limits.levels) add('level', trackId, null, -LEVEL_DB);
    }
    const own = this.tracks.find(({ id }) => id === forId)!.claims[0];
    if (limits.boosts) add('boost', forId, bellOver(own, BOOST_DB), BOOST_DB);
    if (limits.levels) add('level', forId, null, LEVEL_DB);
    return found;
  }

  /** Pass filters that shut off a range for one that has next to nothing beyond it. */
  private endsBeyond({ lowHz, highHz }: FrequencyBand): BandSettings[] {
    const pass = { ...BAND_DEFAULTS, family: 'butterworth', order: 3 } as const;
    return [
      ...(highHz < 500 ? [{ ...pass, type: 'high-pass' as const, frequencyHz: tidy(highHz) }] : []),
      ...(lowHz > 2500 ? [{ ...pass, type: 'low-pass' as const, frequencyHz: tidy(lowHz) }] : []),
    ];
  }

  /** A boost, and a cut in what is its track's own: only where nothing else does as much. */
  private isUnwelcome(kind: RoomMoveKind, trackId: string, band: BandSettings | null): boolean {
    const { claims } = this.state.trackOf(trackId).track;
    return (
      kind === 'boost' ||
      (band !== null && claims.some(({ lowHz, highHz }) => band.frequencyHz >= lowHz && band.frequencyHz <= highHz))
    );
  }

  /** What a move wins for some claims beside what it takes; null where it takes too much. */
  private worthOf(
    { kind, change, trackId, forId, band, made }: Candidate,
    before: ReadonlyMap<string, number>,
    ids: readonly string[],
  ) {
    const lossLu = this.state.lossLu(change);
    const lostLu = this.before.reduce(
      (sum, move) => sum + (move.trackId === trackId ? Math.max(0, move.lossLu) : 0),
      0,
    );
    if (lostLu + this.state.trackOf(trackId).lostLu + Math.max(0, lossLu) > this.limits.mostLossLu) return null;
    // A boost of more than that is a level in disguise.
    if (kind === 'boost' && lossLu < -MOST_BOOST_LU) return null;
    const after = this.state.clearancesWith(change, ids);
    // It must help the one that it is for.
    const isHelp = (after.get(forId) ?? -Infinity) - before.get(forId)! >= LEAST_WIN_DB;
    const win =
      this.lackOf(new Map(ids.flatMap((id) => (after.has(id) ? [[id, before.get(id)!]] : [])))) - this.lackOf(after);
    if (win < LEAST_WIN_DB || !isHelp) return null;
    const cost = (made ? DEEPER_COST_LU : MOVE_COST_LU) + (this.isUnwelcome(kind, trackId, band) ? UNWELCOME_LU : 0);
    return { lossLu, worth: win / (cost + Math.abs(lossLu)) };
  }

  /** The move that is worth most now. */
  private best(now: ReadonlyMap<string, number>, wanting: readonly string[]) {
    const hopes = wanting
      .flatMap((id) =>
        this.candidatesFor(id).map((candidate) => ({ candidate, hope: this.worthOf(candidate, now, [id]) })),
      )
      .filter(({ hope }) => hope !== null)
      .sort((a, b) => b.hope!.worth - a.hope!.worth);
    let best: { candidate: Candidate; lossLu: number; worth: number } | null = null;
    for (const { candidate, hope } of hopes) {
      // What a move does for others is seldom more than what it does for the one that it is meant for.
      if (best && hope!.worth < best.worth / 2) break;
      const whole = this.worthOf(candidate, now, this.claims);
      if (whole && (!best || whole.worth > best.worth)) best = { candidate, ...whole };
    }
    return best;
  }

  plan(onProgress: (share: number) => void = () => undefined): RoomPlan {
    const first = this.clearances();
    let now = first;
    const firstLack = this.lackOf(first);
    const wanting = () => [...now].filter(([, db]) => this.limits.goalDb - db > LEAST_LACK_DB).map(([id]) => id);
    for (;;) {
      const found = this.best(now, wanting());
      if (!found) break;
      const { change, made, ...move } = found.candidate;
      const before = now;
      this.state.make(change);
      now = this.clearances();
      if (made) {
        const started = new Map(
          [...before].map(([id, db]) => [id, made.wins.find(({ trackId }) => trackId === id)?.beforeDb ?? db]),
        );
        Object.assign(made, { ...move, lossLu: made.lossLu + found.lossLu, wins: winsOf(started, now) });
      } else this.moves.push({ ...move, lossLu: found.lossLu, wins: winsOf(before, now) });
      onProgress(firstLack > 0 ? Math.max(0, 1 - this.lackOf(now) / firstLack) : 1);
    }
    return {
      moves: this.moves,
      lacks: wanting().map((id) => this.lackAt(id, now.get(id)!)),
      clearances: [...first].map(([trackId, beforeDb]) => ({ trackId, beforeDb, afterDb: now.get(trackId)! })),
    };
  }

  private lackAt(trackId: string, clearanceDb: number): RoomLack {
    const [worst] = this.state.inTheWay(trackId);
    const isSpent = [...this.before, ...this.moves].some((move) => move.trackId === worst.trackId);
    const why = worst.share < LEAST_ONE_SHARE ? 'crowd' : isSpent ? 'limits' : 'level';
    return { trackId, clearanceDb, worstId: worst.trackId, worstShare: worst.share, why };
  }
}

const flat = (db: number) => new Float64Array(SPECTRUM_BANDS).fill(10 ** (db / 10));

function winsOf(before: ReadonlyMap<string, number>, after: ReadonlyMap<string, number>): RoomMove['wins'] {
  return [...before]
    .map(([trackId, beforeDb]) => ({ trackId, beforeDb, afterDb: after.get(trackId)! }))
    .filter(({ beforeDb, afterDb }) => Math.abs(afterDb - beforeDb) >= 0.5)
    .sort((a, b) => b.afterDb - b.beforeDb - (a.afterDb - a.beforeDb));
}

/** What is wanted of a plan. */
export interface RoomOptions {
  limits: RoomLimits;
  rateHz: number;
  /** Ids of tracks that may be changed; all where it is left out. */
  mayMove?: readonly string[];
  /** Keys of moves that are not wanted. */
  refused?: readonly string[];
  /** Moves that were made before, and count towards the limits. */
  made?: readonly Pick<RoomMove, 'key' | 'trackId' | 'lossLu'>[];
}

/**
 * The smallest set of ordinary moves that brings the claims of a mix to their goal, as far as that goes: the move that wins most for what
 * it takes comes first, and each is weighed on what those before it have left.
 * @param tracks all that is heard, those without a claim too
 * @param blocks of the stretch that is looked at; the fields have as many
 */
export function planRoom(
  tracks: readonly RoomTrack[],
  blocks: number,
  { limits, rateHz, mayMove = tracks.map(({ id }) => id), refused = [], made = [] }: RoomOptions,
  onProgress?: (share: number) => void,
): RoomPlan {
  const unwanted = new Set([...refused, ...made.map(({ key }) => key)]);
  return new Planner(tracks, blocks, limits, rateHz, new Set(mayMove), unwanted, made).plan(onProgress);
}
