import { LEVEL_BYTE_DB, SPECTRUM_BAND_EDGES, SPECTRUM_BANDS, type FrequencyBand } from '../measure';
import { lostShare } from './masking';
import { blockSeconds, type Blocks } from './fields';

/** A stretch in which an overlap occurs, seconds of the song. */
export interface OverlapPassage {
  startSeconds: number;
  endSeconds: number;
}

/** A range in which two tracks are strong at the same time. */
export interface Overlap extends FrequencyBand {
  /** The one that loses more there. */
  quieterId: string;
  louderId: string;
  /** How much of all its strength the quieter one loses there to the other, 0 to 1, while both are strong. */
  lostShare: number;
  /** How much further the quieter one stands above the other in the ear in which it stands better, dB: by position. */
  betterEarDb: number;
  /** What that is beside the strength of the strongest track of the mix: what the list is ordered by. */
  weight: number;
  /** Where it occurs, the worst first. */
  passages: OverlapPassage[];
}

/** Excitation of a track as bytes of half a decibel, and what is strong in it. */
export interface LevelField {
  bytes: Uint8Array;
  /** From this byte on the track is strong. */
  strongFrom: number;
  /** The first strong band of each block, and the one after the last; 0 and 0 for none. */
  first: Uint8Array;
  beyond: Uint8Array;
  /** The highest byte of each block. */
  highest: Uint8Array;
  /** Sum of its strength over all blocks and bands in which it is strong. */
  strength: number;
}

const BYTE_ZERO_DB = -115;
/** A track is strong where it is no further below its own strong moments than this. */
const STRONG_RANGE_DB = 15;
const STRONG_MOMENTS = 0.95;

/**
 * Strength of each byte: its power to the 0.6. Louder than a loudness (0.2 to 0.3) makes of it, softer than power: conflicts are where a
 * mix is loud, but not in its peaks alone. Not weighted for the ear, since it is in the lows that levels pile up.
 */
const STRENGTH_EXPONENT = 0.6;
const STRENGTH = Float64Array.from({ length: 256 }, (_, byte) =>
  byte === 0 ? 0 : 10 ** ((STRENGTH_EXPONENT * (byte * LEVEL_BYTE_DB + BYTE_ZERO_DB)) / 10),
);
/** Share lost by the difference of two bytes: masker less sound, from −255 on. */
const LOST = Float64Array.from({ length: 511 }, (_, i) => lostShare((i - 255) * LEVEL_BYTE_DB));

/** So much of a 32-bit number tells its level to a hundredth of a decibel: its exponent and nine bits of its mantissa. */
const LEVEL_SHIFT = 14;
/** The byte of every power, by its first bits; 0 for what is nothing. */
const BYTE_OF_POWER = new Uint8Array(1 << (31 - LEVEL_SHIFT));
{
  const bits = new Int32Array(BYTE_OF_POWER.length);
  // The middle of the powers that share their first bits.
  for (let i = 0; i < bits.length; i++) bits[i] = (i << LEVEL_SHIFT) + (1 << (LEVEL_SHIFT - 1));
  const powers = new Float32Array(bits.buffer);
  for (let i = 0; i < bits.length; i++) {
    const byte = powers[i] >= 1e-12 ? Math.round((10 * Math.log10(powers[i]) - BYTE_ZERO_DB) / LEVEL_BYTE_DB) : 0;
    BYTE_OF_POWER[i] = Math.min(255, Math.max(0, byte));
  }
}

/** @param excitation see `fieldOf` */
export function levelField(excitation: Float32Array): LevelField {
  const bytes = new Uint8Array(excitation.length);
  const bits = new Int32Array(excitation.buffer, excitation.byteOffset, excitation.length);
  const blocks = excitation.length / SPECTRUM_BANDS;
  const highest = new Uint8Array(blocks);
  for (let block = 0, at = 0; block < blocks; block++) {
    let most = 0;
    for (const end = at + SPECTRUM_BANDS; at < end; at++) {
      const byte = BYTE_OF_POWER[bits[at] >>> LEVEL_SHIFT];
      bytes[at] = byte;
      if (byte > most) most = byte;
    }
    highest[block] = most;
  }
  const heard = highest.filter((most) => most > 0).sort();
  const strongest = heard[Math.floor(STRONG_MOMENTS * (heard.length - 1))] ?? 255;
  const strongFrom = Math.max(1, strongest - STRONG_RANGE_DB / LEVEL_BYTE_DB);
  const first = new Uint8Array(blocks);
  const beyond = new Uint8Array(blocks);
  let strength = 0;
  for (let block = 0; block < blocks; block++) {
    if (highest[block] < strongFrom) continue;
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      const byte = bytes[block * SPECTRUM_BANDS + band];
      if (byte < strongFrom) continue;
      if (beyond[block] === 0) first[block] = band;
      beyond[block] = band + 1;
      strength += STRENGTH[byte];
    }
  }
  return { bytes, strongFrom, first, beyond, highest, strength };
}

/** How alike two tracks rise and fall, block by block: Pearson's r of their highest levels, dB; 0 where one hardly moves. */
export function patternLikeness(first: LevelField, second: LevelField): number {
  const blocks = first.highest.length;
  const [a, b] = [first, second].map(({ highest }) => {
    const mean = highest.reduce((sum, level) => sum + level, 0) / Math.max(1, blocks);
    return Float64Array.from(highest, (level) => level - mean);
  });
  const product = (some: Float64Array, others: Float64Array) =>
    some.reduce((sum, value, block) => sum + value * others[block], 0);
  const size = Math.sqrt(product(a, a) * product(b, b));
  return size < blocks ? 0 : product(a, b) / size;
}

/** What each of two tracks loses to the other in every band, summed over the blocks in which both are strong. */
interface PairLoss {
  first: Float64Array;
  second: Float64Array;
}

/** How each of two tracks stands better against the other in one of the ears, dB. */
export interface BetterEars {
  first: number;
  second: number;
}
const SAME_EARS: BetterEars = { first: 0, second: 0 };

/** More than this nobody gains by position: a head lets much past. Common practice. */
const MOST_BETTER_EAR_DB = 10;

/**
 * How much better one stands against another in the better ear than in both together: with the better ratio one listens (better-ear
 * listening; what two ears tell beyond that, the unmasking by differences of phase, is left out).
 * @param own shares of its power that reach left and right, adding up to 1; @param other the same of the other
 * @returns dB, 0 for the same position
 */
export function betterEarDb(own: readonly [number, number], other: readonly [number, number]): number {
  const ratios = own.map((share, ear) => (share + 1e-9) / (other[ear] + 1e-9));
  return Math.min(MOST_BETTER_EAR_DB, Math.max(0, 10 * Math.log10(Math.max(...ratios))));
}

/** A table for each of a few numbers of bytes, made once. */
function tablesFor(make: (bytes: number) => Float64Array): (bytes: number) => Float64Array {
  const made = new Map<number, Float64Array>();
  return (bytes) => {
    let table = made.get(bytes);
    if (!table) made.set(bytes, (table = make(bytes)));
    return table;
  };
}
/** {@link STRENGTH} of the bytes that count as strong, 0 for others: so nothing needs to be asked in the inner loop. */
const strengthsFrom = tablesFor((from) => STRENGTH.map((strength, byte) => (byte >= from ? strength : 0)));
/** 1 for the bytes that count as strong, 0 for others. */
const strongFrom = tablesFor((from) => STRENGTH.map((_, byte) => (byte >= from ? 1 : 0)));
/** {@link LOST} for one that stands so many bytes better in one ear. */
const lostWith = tablesFor((better) => LOST.map((_, i) => LOST[Math.max(0, i - better)]));

/** @param apart one block in so many is looked at */
function pairLoss(fieldA: LevelField, fieldB: LevelField, ears = SAME_EARS, apart = 1): PairLoss {
  const [lossA, lossB] = [new Float64Array(SPECTRUM_BANDS), new Float64Array(SPECTRUM_BANDS)];
  const a = fieldA.bytes;
  const b = fieldB.bytes;
  const strengthA = strengthsFrom(fieldA.strongFrom);
  const strengthB = strengthsFrom(fieldB.strongFrom);
  const strongA = strongFrom(fieldA.strongFrom);
  const strongB = strongFrom(fieldB.strongFrom);
  const [lostA, lostB] = [ears.first, ears.second].map((db) => lostWith(Math.round(db / LEVEL_BYTE_DB)));
  for (let block = 0; block < fieldA.first.length; block += apart) {
    const at = block * SPECTRUM_BANDS;
    const end = Math.min(fieldA.beyond[block], fieldB.beyond[block]);
    for (let band = Math.max(fieldA.first[block], fieldB.first[block]); band < end; band++) {
      const levelA = a[at + band];
      const levelB = b[at + band];
      lossA[band] += strengthA[levelA] * strongB[levelB] * lostA[levelB - levelA + 255];
      lossB[band] += strengthB[levelB] * strongA[levelA] * lostB[levelA - levelB + 255];
    }
  }
  return { first: lossA, second: lossB };
}

/** So many blocks, spread over the stretch, tell roughly how much two tracks are in each other's way. */
const LOOKED_AT_BLOCKS = 300;

/** About what two tracks lose to each other in all, from some of the blocks: tells which pairs are worth a closer look. */
export function roughLoss(fieldA: LevelField, fieldB: LevelField): number {
  const apart = Math.max(1, Math.floor(fieldA.first.length / LOOKED_AT_BLOCKS));
  const loss = pairLoss(fieldA, fieldB, SAME_EARS, apart);
  let sum = 0;
  for (let band = 0; band < SPECTRUM_BANDS; band++) sum += Math.max(loss.first[band], loss.second[band]);
  return sum * apart;
}

/** A range keeps what loses at least this much of what its worst band loses … */
const RANGE_EDGE = 0.45;
/** … bridges as many bands, and is at least as wide, in bands of 1/12 octave. */
const BRIDGED_BANDS = 2;
const LEAST_BANDS = 4;
const MOST_RANGES = 2;

interface LossRange {
  first: number;
  last: number;
  lost: number;
}

/** The ranges a person would name: where a loss is near its highest. */
function lossRanges(loss: ArrayLike<number>): LossRange[] {
  const left = Float64Array.from(loss);
  const total = left.reduce((sum, value) => sum + value, 0);
  const found: LossRange[] = [];
  while (found.length < MOST_RANGES) {
    const top = left.indexOf(Math.max(...left));
    const edge = left[top] * RANGE_EDGE;
    if (edge <= 0) break;
    const walk = (direction: 1 | -1) => {
      let end = top;
      for (let at = top, below = 0; at >= 0 && at < SPECTRUM_BANDS && below <= BRIDGED_BANDS; at += direction) {
        if (left[at] >= edge) [end, below] = [at, 0];
        else below++;
      }
      return end;
    };
    const [first, last] = [walk(-1), walk(1)];
    let lost = 0;
    for (let band = first; band <= last; band++) lost += left[band];
    // What is left after the first range must be worth a name of its own.
    if (found.length > 0 && lost < 0.25 * total) break;
    left.fill(0, Math.max(0, first - BRIDGED_BANDS), last + 1 + BRIDGED_BANDS);
    if (last - first + 1 >= LEAST_BANDS) found.push({ first, last, lost });
  }
  return found;
}

/** What is not worth a line: less than this share of the quieter one's strength. */
const LEAST_LOST_SHARE = 0.02;

/** An overlap of a pair, before it is held against the rest of the mix. */
export interface PairOverlap extends FrequencyBand {
  quieterId: string;
  louderId: string;
  lostShare: number;
  betterEarDb: number;
  /** Strength that is lost. */
  lost: number;
}

/** One of a pair. */
export interface PairParty {
  id: string;
  field: LevelField;
  claims: readonly FrequencyBand[];
  /** Where its part is usually heard; null where that is not known. */
  usual: FrequencyBand | null;
}

/** Outside of what a part is for, a loss counts this much. */
const UNUSUAL = 0.35;

/**
 * How much a loss counts in each band: in what the loser claims in full and elsewhere not at all; for one without a claim not where the
 * other claims the range, and less where its part is not usually heard.
 */
function mattering(loser: PairParty, other: PairParty): Float64Array {
  const isIn = (band: number, { lowHz, highHz }: FrequencyBand) => {
    const edges = SPECTRUM_BAND_EDGES[band];
    const middle = Math.sqrt(edges.lowHz * edges.highHz);
    return middle >= lowHz && middle <= highHz;
  };
  return Float64Array.from({ length: SPECTRUM_BANDS }, (_, band) => {
    if (loser.claims.length > 0) return loser.claims.some((claim) => isIn(band, claim)) ? 1 : 0;
    if (other.claims.some((claim) => isIn(band, claim))) return 0;
    return !loser.usual || isIn(band, loser.usual) ? 1 : UNUSUAL;
  });
}

/**
 * The overlaps of a pair.
 * @param ears how they stand apart by position
 * @param isFinding false for what needs nothing done about it
 */
export function overlapsOf(
  first: PairParty,
  second: PairParty,
  ears = SAME_EARS,
  isFinding: (overlap: PairOverlap) => boolean = () => true,
): PairOverlap[] {
  const loss = pairLoss(first.field, second.field, ears);
  const of = (quieter: PairParty, louder: PairParty, lost: Float64Array, ear: number): PairOverlap[] => {
    const matters = mattering(quieter, louder);
    return lossRanges(lost.map((value, band) => value * matters[band])).map((range) => ({
      quieterId: quieter.id,
      louderId: louder.id,
      lowHz: SPECTRUM_BAND_EDGES[range.first].lowHz,
      highHz: SPECTRUM_BAND_EDGES[range.last].highHz,
      lostShare: range.lost / quieter.field.strength,
      betterEarDb: ear,
      lost: range.lost,
    }));
  };
  const all = [...of(first, second, loss.first, ears.first), ...of(second, first, loss.second, ears.second)]
    .filter((overlap) => overlap.lostShare >= LEAST_LOST_SHARE && isFinding(overlap))
    .sort((a, b) => b.lostShare - a.lostShare);
  // Both may lose in the same range: the one that loses more is named.
  return all.filter(
    (overlap, i) => !all.slice(0, i).some((before) => before.lowHz < overlap.highHz && before.highHz > overlap.lowHz),
  );
}

const PASSAGE_SHARE = 0.4;
const BRIDGED_SECONDS = 0.8;
const SHORTEST_SECONDS = 0.25;
const MOST_PASSAGES = 5;

/** Where an overlap occurs. */
export function passagesOf(
  overlap: FrequencyBand,
  quieter: LevelField,
  louder: LevelField,
  blocks: Blocks,
): OverlapPassage[] {
  const bands = SPECTRUM_BAND_EDGES.flatMap(({ lowHz, highHz }, band) =>
    lowHz >= overlap.lowHz - 1e-6 && highHz <= overlap.highHz + 1e-6 ? [band] : [],
  );
  const lost = new Float64Array(blocks.count);
  for (let block = 0; block < blocks.count; block++) {
    for (const band of bands) {
      const own = quieter.bytes[block * SPECTRUM_BANDS + band];
      const masker = louder.bytes[block * SPECTRUM_BANDS + band];
      if (own >= quieter.strongFrom && masker >= louder.strongFrom)
        lost[block] += STRENGTH[own] * LOST[masker - own + 255];
    }
  }
  const edge = lost.reduce((most, value) => Math.max(most, value), 0) * PASSAGE_SHARE;
  const spans: { from: number; to: number; sum: number }[] = [];
  const bridged = BRIDGED_SECONDS / (blockSeconds(blocks, 1) - blockSeconds(blocks, 0));
  lost.forEach((value, block) => {
    if (edge === 0 || value < edge) return;
    const last = spans[spans.length - 1];
    if (last && block - last.to <= bridged) Object.assign(last, { to: block + 1, sum: last.sum + value });
    else spans.push({ from: block, to: block + 1, sum: value });
  });
  return spans
    .map(({ from, to, sum }) => ({
      startSeconds: blockSeconds(blocks, from),
      endSeconds: blockSeconds(blocks, to),
      sum,
    }))
    .filter(({ startSeconds, endSeconds }) => endSeconds - startSeconds >= SHORTEST_SECONDS - 1e-9)
    .sort((a, b) => b.sum - a.sum)
    .slice(0, MOST_PASSAGES)
    .map(({ startSeconds, endSeconds }) => ({ startSeconds, endSeconds }));
}
