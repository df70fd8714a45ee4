import { designBand, magnitudesDb } from '../filters';
import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, type FrequencyBand } from '../measure';
import { BAND_DEFAULTS, type BandSettings } from '../song';
import { bandsIn, clearance, playedBlocks, sumsIn } from './clearance';
import { fieldOf, type Blocks, type Field } from './fields';
import type { Overlap } from './overlaps';

/** The moves that make room in an overlap: who gives way, who is brought out, and by which bands. */
export interface RoomMoves {
  ownerId: string;
  yielderId: string;
  /** Bands of the one that gives way and of the one that is brought out, at a strength. */
  cut: BandSettings;
  boost: BandSettings | null;
}

/** How room is made. */
export interface RoomChoice {
  /** The one that is to be heard there. */
  ownerId: string;
  /** True to bring it out a little too. */
  withBoost: boolean;
}

/** What making room is decided by. */
export interface RoomParty {
  id: string;
  claims: readonly FrequencyBand[];
  field: Field;
}

const MOST_CUT_DB = 12;
const MOST_BOOST_DB = 4;
const CUT_Q = { min: 0.5, max: 5 };
/** A pass filter does, where so little of the one that gives way lies on its shut side. */
const DISPENSABLE_SHARE = 0.12;
/** How far the one whose range it is is to stand above the other there, dB. */
export const ROOM_TARGET_DB = 3;

const octaves = ({ lowHz, highHz }: FrequencyBand) => Math.log2(highHz / lowHz);

/** Share of a range that claims cover, by octaves. */
function claimedShare(range: FrequencyBand, claims: readonly FrequencyBand[]): number {
  const covered = claims.reduce((sum, { lowHz, highHz }) => {
    const shared = { lowHz: Math.max(lowHz, range.lowHz), highHz: Math.min(highHz, range.highHz) };
    return shared.highHz > shared.lowHz ? sum + octaves(shared) : sum;
  }, 0);
  return Math.min(1, covered / octaves(range));
}

const powerIn = ({ powers }: Field, isIn: (hz: number) => boolean) => {
  let sum = 0;
  for (let at = 0; at < powers.length; at++) if (isIn(SPECTRUM_CENTERS_HZ[at % SPECTRUM_BANDS])) sum += powers[at];
  return sum;
};

/** Whose range it is: by claim; where the claims do not tell, the one that loses more there. */
export function roomOwner(overlap: Overlap, parties: readonly [RoomParty, RoomParty]): string {
  const [a, b] = parties.map(({ claims }) => claimedShare(overlap, claims));
  return Math.abs(a - b) > 0.1 ? parties[a > b ? 0 : 1].id : overlap.quieterId;
}

/** What cuts: a pass filter where the one that gives way has next to nothing beyond the range, else a bell over it. */
function cutFor(overlap: FrequencyBand, yielder: RoomParty, strength: number): BandSettings {
  const total = powerIn(yielder.field, () => true) + 1e-20;
  const below = powerIn(yielder.field, (hz) => hz <= overlap.highHz) / total;
  const above = powerIn(yielder.field, (hz) => hz >= overlap.lowHz) / total;
  const pass = { ...BAND_DEFAULTS, family: 'butterworth', order: 3 } as const;
  if (below < DISPENSABLE_SHARE)
    return { ...pass, type: 'high-pass', frequencyHz: overlap.highHz ** strength * 20 ** (1 - strength) };
  if (above < DISPENSABLE_SHARE)
    return { ...pass, type: 'low-pass', frequencyHz: overlap.lowHz ** strength * 20000 ** (1 - strength) };
  const q = 1 / (2 * Math.sinh((Math.LN2 / 2) * octaves(overlap)));
  return {
    ...BAND_DEFAULTS,
    type: 'bell',
    frequencyHz: Math.sqrt(overlap.lowHz * overlap.highHz),
    gainDb: -MOST_CUT_DB * strength,
    q: Math.min(CUT_Q.max, Math.max(CUT_Q.min, q)),
  };
}

/**
 * The moves that make room at a strength.
 * @param strength 0 to 1
 */
export function roomMoves(
  overlap: Overlap,
  parties: readonly [RoomParty, RoomParty],
  strength: number,
  { ownerId, withBoost }: RoomChoice,
): RoomMoves {
  const [owner, yielder] = parties[0].id === ownerId ? parties : [parties[1], parties[0]];
  const cut = cutFor(overlap, yielder, strength);
  const boost: BandSettings | null = withBoost
    ? {
        ...BAND_DEFAULTS,
        type: 'bell',
        frequencyHz: Math.sqrt(overlap.lowHz * overlap.highHz),
        gainDb: MOST_BOOST_DB * strength,
        q: 1,
      }
    : null;
  return { ownerId: owner.id, yielderId: yielder.id, cut, boost };
}

/** A field after one more band. */
function after(field: Field, band: BandSettings | null, rateHz: number): Field {
  if (!band) return field;
  const gains = magnitudesDb(designBand(band, rateHz), SPECTRUM_CENTERS_HZ, rateHz).map((db) => 10 ** (db / 10));
  return fieldOf(field.powers, gains);
}

/** True for the blocks in which two play at once in a range. @param sums what each has there, one sum a block */
export function meetingBlocks(own: ArrayLike<number>, other: ArrayLike<number>): boolean[] {
  const [ownPlays, otherPlays] = [playedBlocks(own), playedBlocks(other)];
  return ownPlays.map((plays, block) => plays && otherPlays[block]);
}

/** How far one stands above another in the blocks in which they meet, dB; null where they never do. */
export function clearanceWhere(
  meet: readonly boolean[],
  own: ArrayLike<number>,
  other: ArrayLike<number>,
): number | null {
  const count = meet.reduce((sum, both) => sum + Number(both), 0);
  const [alone, together] = [new Float64Array(count), new Float64Array(count)];
  for (let block = 0, n = 0; block < meet.length; block++) {
    if (!meet[block]) continue;
    alone[n] = own[block];
    together[n++] = own[block] + other[block];
  }
  const found = clearance(alone, together);
  return found?.clearanceDb ?? null;
}

/**
 * How far the one whose range it is stands above the one that gives way, in that range, with the moves, while both play there.
 * @returns dB; null where they never meet there
 */
export function roomClearanceDb(
  overlap: FrequencyBand,
  moves: RoomMoves,
  parties: readonly [RoomParty, RoomParty],
  { count }: Blocks,
  rateHz: number,
): number | null {
  const partyOf = (id: string) => parties.find((party) => party.id === id)!;
  const bands = bandsIn([overlap]);
  const sums = ({ excitation }: Field) => sumsIn(excitation, bands, count);
  const [owner, yielder] = [partyOf(moves.ownerId).field, partyOf(moves.yielderId).field];
  return clearanceWhere(
    meetingBlocks(sums(owner), sums(yielder)),
    sums(after(owner, moves.boost, rateHz)),
    sums(after(yielder, moves.cut, rateHz)),
  );
}

const BISECTIONS = 7;

/** The smallest strength whose moves reach a target; 1 where none does. */
export function roomStrength(
  overlap: Overlap,
  parties: readonly [RoomParty, RoomParty],
  blocks: Blocks,
  rateHz: number,
  { targetDb, ...choice }: RoomChoice & { targetDb: number },
): number {
  const reaches = (strength: number) => {
    const moves = roomMoves(overlap, parties, strength, choice);
    return (roomClearanceDb(overlap, moves, parties, blocks, rateHz) ?? Infinity) >= targetDb;
  };
  if (reaches(0)) return 0;
  let [low, high] = [0, 1];
  for (let i = 0; i < BISECTIONS; i++) {
    const middle = (low + high) / 2;
    if (reaches(middle)) high = middle;
    else low = middle;
  }
  return high;
}
