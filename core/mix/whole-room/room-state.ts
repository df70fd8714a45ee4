import { K_POWERS, SPECTRUM_BANDS, type FrequencyBand } from '../../measure';
import { bandsIn, clearance, median, playedBlocks } from '../clearance';
import type { Field } from '../fields';
import { lostShare, spread } from '../masking';

/** A track as room is made for it and by it. */
export interface RoomTrack {
  id: string;
  /** Where it is to be heard; none for one that only gives way. */
  claims: readonly FrequencyBand[];
  /** Tracks that are one source with it: they are not in its way. */
  kin?: readonly string[];
  /** What of it reaches the ears. */
  field: Field;
}

/** What a move does to a track: power gains by band, in all blocks or in some. */
export interface RoomChange {
  trackId: string;
  /** Power gains of 120 bands. */
  gains: Float64Array;
  /** Blocks in which it acts; null for all. */
  when: readonly boolean[] | null;
}

/** So many blocks are looked at, spread over the stretch. */
const MOST_BLOCKS = 300;
/** What changes a band by less than this share is not felt. */
const LEAST_FELT = 0.01;

interface ClaimSums {
  own: Float64Array;
  all: Float64Array;
  clearanceDb: number | null;
}

interface StateTrack {
  track: RoomTrack;
  /** Excitation by block and band, as the moves so neighbour leave it. */
  excitation: Float64Array;
  /** Mean power by band while it plays, as the moves so neighbour leave it. */
  mean: Float64Array;
  /** The same, K-weighted and as neighbour as it is heard in the mix, before any move. */
  heard: Float64Array;
  bands: readonly number[];
  played: boolean[];
  /** What it has lost by the moves so neighbour, LU. */
  lostLu: number;
}

/** One block in so many: what they are like is kept, their middle values too. */
function thinned(values: Float32Array, blocks: number, by: number): Float64Array {
  const count = Math.ceil(blocks / by);
  const out = new Float64Array(count * SPECTRUM_BANDS);
  for (let block = 0; block < count; block++)
    out.set(values.subarray(block * by * SPECTRUM_BANDS, (block * by + 1) * SPECTRUM_BANDS), block * SPECTRUM_BANDS);
  return out;
}

const totalsOf = (powers: Float64Array, weights?: ArrayLike<number>) => {
  const totals = new Float64Array(powers.length / SPECTRUM_BANDS);
  for (let at = 0; at < powers.length; at++)
    totals[Math.floor(at / SPECTRUM_BANDS)] += powers[at] * (weights ? weights[at % SPECTRUM_BANDS] : 1);
  return totals;
};

/** What changes of a track's excitation under gains: worked out on its mean spectrum, since every block is spread alike. */
function excitationRatio(mean: Float64Array, gains: Float64Array): Float64Array {
  const [before, after] = [new Float64Array(SPECTRUM_BANDS), new Float64Array(SPECTRUM_BANDS)];
  spread(mean, 0, before);
  spread(
    mean.map((power, band) => power * gains[band]),
    0,
    after,
  );
  return before.map((power, band) => (power > 0 ? after[band] / power : gains[band]));
}

/** The tracks of a mix, their clearances, and what moves do to them; small enough to be asked thousands of times. */
export class RoomState {
  readonly blocks: number;
  private readonly tracks: Map<string, StateTrack>;
  /** Excitation of the whole mix. */
  private readonly all: Float64Array;
  private readonly claimed = new Map<string, ClaimSums>();

  constructor(tracks: readonly RoomTrack[], blocks: number) {
    const by = Math.max(1, Math.ceil(blocks / MOST_BLOCKS));
    this.blocks = Math.ceil(blocks / by);
    this.all = new Float64Array(this.blocks * SPECTRUM_BANDS);
    const thin = tracks.map((track) => ({
      track,
      powers: thinned(track.field.powers, blocks, by),
      excitation: thinned(track.field.excitation, blocks, by),
    }));
    for (const { excitation } of thin) for (let i = 0; i < excitation.length; i++) this.all[i] += excitation[i];
    this.tracks = new Map(
      thin.map(({ track, powers, excitation }) => [track.id, this.stateOf(track, powers, excitation)]),
    );
  }

  private stateOf(track: RoomTrack, powers: Float64Array, excitation: Float64Array): StateTrack {
    const played = playedBlocks(totalsOf(powers, K_POWERS));
    const mean = new Float64Array(SPECTRUM_BANDS);
    const heard = new Float64Array(SPECTRUM_BANDS);
    for (let block = 0; block < this.blocks; block++) {
      if (!played[block]) continue;
      for (let band = 0; band < SPECTRUM_BANDS; band++) {
        const at = block * SPECTRUM_BANDS + band;
        mean[band] += powers[at];
        const rest = Math.max(0, this.all[at] - excitation[at]);
        const share = rest <= 0 ? 1 : excitation[at] <= 0 ? 0 : 1 - lostShare(10 * Math.log10(rest / excitation[at]));
        heard[band] += K_POWERS[band] * powers[at] * share;
      }
    }
    const bands = track.claims.length > 0 ? bandsIn(track.claims) : [];
    return { track, excitation, mean, heard, bands, played, lostLu: 0 };
  }

  trackOf(id: string): StateTrack {
    return this.tracks.get(id)!;
  }

  /** Excitation of a track in some bands, one sum a block. */
  private sums(party: StateTrack, bands: readonly number[]): Float64Array {
    const sums = new Float64Array(this.blocks);
    for (let block = 0; block < this.blocks; block++)
      for (const band of bands) sums[block] += party.excitation[block * SPECTRUM_BANDS + band];
    return sums;
  }

  /** A track in its claim as it stands: its own excitation, and everything's but that of its kin. */
  private claimSums(id: string): ClaimSums {
    const known = this.claimed.get(id);
    if (known) return known;
    const party = this.trackOf(id);
    const all = new Float64Array(this.blocks);
    for (let block = 0; block < this.blocks; block++)
      for (const band of party.bands) all[block] += this.all[block * SPECTRUM_BANDS + band];
    for (const kin of party.track.kin ?? []) {
      const own = this.tracks.get(kin);
      if (own) this.sums(own, party.bands).forEach((power, block) => (all[block] -= power));
    }
    const own = this.sums(party, party.bands);
    const sums = { own, all, clearanceDb: party.bands.length > 0 ? (clearance(own, all)?.clearanceDb ?? null) : null };
    this.claimed.set(id, sums);
    return sums;
  }

  /** What a change adds to its track in every block and band: a ratio less 1, and the bands in which that is anything. */
  private effectOf({ trackId, gains }: RoomChange): { less: Float64Array; first: number; last: number } {
    const less = excitationRatio(this.trackOf(trackId).mean, gains).map((ratio) => ratio - 1);
    const isFelt = (value: number) => Math.abs(value) > LEAST_FELT;
    return { less, first: less.findIndex(isFelt), last: less.findLastIndex(isFelt) };
  }

  /** Clearance of a track in its claim, dB, as it is; null where it has no claim or never plays in it. */
  clearanceDb(id: string): number | null {
    return this.claimSums(id).clearanceDb;
  }

  /** Clearances of some tracks with a change. */
  clearancesWith(change: RoomChange, ids: readonly string[]): Map<string, number> {
    const { less, first, last } = this.effectOf(change);
    const neighbour = this.trackOf(change.trackId);
    const found = new Map<string, number>();
    for (const id of ids) {
      const party = this.trackOf(id);
      const { own, all, clearanceDb } = this.claimSums(id);
      if (clearanceDb === null) continue;
      const bands = party.bands.filter((band) => band >= first && band <= last);
      if (first < 0 || bands.length === 0 || (party.track.kin ?? []).includes(change.trackId)) {
        found.set(id, clearanceDb);
        continue;
      }
      const delta = new Float64Array(this.blocks);
      for (let block = 0; block < this.blocks; block++) {
        if (change.when && !change.when[block]) continue;
        const at = block * SPECTRUM_BANDS;
        let sum = 0;
        for (let i = 0; i < bands.length; i++) sum += neighbour.excitation[at + bands[i]] * less[bands[i]];
        delta[block] = sum;
      }
      const with_ = clearance(
        neighbour === party ? own.map((power, block) => power + delta[block]) : own,
        all.map((power, block) => power + delta[block]),
      );
      found.set(id, with_?.clearanceDb ?? clearanceDb);
    }
    return found;
  }

  /** Blocks in which a track plays in its claim. */
  playsInClaim(id: string): boolean[] {
    const party = this.trackOf(id);
    return playedBlocks(this.sums(party, party.bands));
  }

  /** How loud a track plays in its claim: the middle of the blocks in which it does, dB relative to a full-scale sine. */
  playedDb(id: string): number {
    const { own } = this.claimSums(id);
    const played = playedBlocks(own);
    const levels = Array.from(own).filter((_, block) => played[block]);
    return levels.length === 0 ? -Infinity : 10 * Math.log10(median(levels));
  }

  /** What stands in a track's claim while it plays there, by track: share of everything else, 0 to 1, the largest first; and by band. */
  inTheWay(id: string): { trackId: string; share: number; byBand: Float64Array }[] {
    const party = this.trackOf(id);
    const played = this.playsInClaim(id);
    const kin = new Set([id, ...(party.track.kin ?? [])]);
    const found = [...this.tracks.values()]
      .filter(({ track }) => !kin.has(track.id))
      .map((neighbour) => {
        const byBand = new Float64Array(SPECTRUM_BANDS);
        for (let block = 0; block < this.blocks; block++) {
          if (!played[block]) continue;
          const at = block * SPECTRUM_BANDS;
          const whole = party.bands.reduce((sum, band) => sum + this.all[at + band], 1e-30);
          for (const band of party.bands) byBand[band] += neighbour.excitation[at + band] / whole;
        }
        return { trackId: neighbour.track.id, share: byBand.reduce((sum, value) => sum + value, 0), byBand };
      });
    const total = found.reduce((sum, { share }) => sum + share, 1e-30);
    return found.map((entry) => ({ ...entry, share: entry.share / total })).sort((a, b) => b.share - a.share);
  }

  /** Share of the blocks in which one plays that another plays in too, 0 to 1. */
  togetherShare(id: string, otherPlays: readonly boolean[]): number {
    const { played } = this.trackOf(id);
    const own = played.filter(Boolean).length;
    return own === 0 ? 0 : played.filter((plays, block) => plays && otherPlays[block]).length / own;
  }

  /** What a change takes of what is heard of its track, LU; below 0 for what it adds. */
  lossLu({ trackId, gains, when }: RoomChange): number {
    const { heard, played } = this.trackOf(trackId);
    const share = when
      ? played.filter((plays, block) => plays && when[block]).length / Math.max(1, played.filter(Boolean).length)
      : 1;
    let [before, after] = [1e-30, 1e-30];
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      before += heard[band];
      after += heard[band] * (1 - share + share * gains[band]);
    }
    return -10 * Math.log10(after / before);
  }

  /** Makes a change last. */
  make(change: RoomChange): void {
    const party = this.trackOf(change.trackId);
    party.lostLu += Math.max(0, this.lossLu(change));
    const { less } = this.effectOf(change);
    this.claimed.clear();
    for (let block = 0; block < this.blocks; block++) {
      if (change.when && !change.when[block]) continue;
      const at = block * SPECTRUM_BANDS;
      for (let band = 0; band < SPECTRUM_BANDS; band++) {
        const added = party.excitation[at + band] * less[band];
        this.all[at + band] = Math.max(0, this.all[at + band] + added);
        party.excitation[at + band] += added;
      }
    }
    if (change.when) return;
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      party.mean[band] *= change.gains[band];
      party.heard[band] *= change.gains[band];
    }
  }
}
