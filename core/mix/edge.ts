import { designBand, magnitudesDb } from '../filters';
import { K_POWERS, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from '../measure';
import type { BandSettings } from '../song';
import { playedBlocks } from './clearance';
import { blockSeconds, type Blocks, type Field } from './fields';
import { lostShare } from './masking';

/**
 * Edge: what a pass filter takes from a track, against its corner. Loss in LU alone is how much its K-weighted power falls in the blocks
 * in which it plays (BS.1770's weighting; the gate is that of the track without the filter). Loss in the mix counts only what is
 * heard there: each block and band with the share that the rest of the mix leaves of it, see `lostShare`.
 */
export type EdgeFilter = BandSettings & { type: 'high-pass' | 'low-pass' };

/** What a track has to lose, band by band. */
export interface EdgeExcitation {
  /** K-weighted power of the blocks in which it plays. */
  alone: Float64Array;
  /** The same of what the mix leaves of it. */
  inMix: Float64Array;
}

/** A track's powers as they reach the ears without the filter in question, and the excitation of everything else. */
export interface EdgeTrack {
  field: Field;
  rest: Float64Array;
  blocks: Blocks;
}

/** The blocks in which a track plays. */
export function playedOf({ field, blocks }: EdgeTrack): boolean[] {
  const powers = new Float64Array(blocks.count);
  for (let block = 0; block < blocks.count; block++)
    for (let band = 0; band < SPECTRUM_BANDS; band++)
      powers[block] += K_POWERS[band] * field.powers[block * SPECTRUM_BANDS + band];
  return playedBlocks(powers);
}

/** What is heard of one block and band beside the rest, 0 to 1. */
export const heardShare = (own: number, rest: number) =>
  rest <= 0 ? 1 : own <= 0 ? 0 : 1 - lostShare(10 * Math.log10(rest / own));

/** @param within the blocks that are looked at; all where it is left out */
export function edgeExcitation(
  track: EdgeTrack,
  within: { from: number; to: number } = { from: 0, to: track.blocks.count },
): EdgeExcitation {
  const { field, rest } = track;
  const played = playedOf(track);
  const excitation = { alone: new Float64Array(SPECTRUM_BANDS), inMix: new Float64Array(SPECTRUM_BANDS) };
  for (let block = within.from; block < within.to; block++) {
    if (!played[block]) continue;
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      const at = block * SPECTRUM_BANDS + band;
      const power = K_POWERS[band] * field.powers[at];
      excitation.alone[band] += power;
      excitation.inMix[band] += power * heardShare(field.excitation[at], rest[at]);
    }
  }
  return excitation;
}

/** Power response of a filter at the middles of the bands. */
function powerResponse(filter: EdgeFilter, rateHz: number): Float64Array {
  return magnitudesDb(designBand(filter, rateHz), SPECTRUM_CENTERS_HZ, rateHz).map((db) => 10 ** (db / 10));
}

const LARGEST_LOSS = 60;

/** What a filter takes of band powers, LU: 0 for silence, at most 60. */
function lossLu(powers: ArrayLike<number>, response: Float64Array, at = 0): number {
  let [all, left] = [0, 0];
  for (let band = 0; band < SPECTRUM_BANDS; band++) {
    all += powers[at + band];
    left += powers[at + band] * response[band];
  }
  return all <= 0 ? 0 : Math.max(0, Math.min(LARGEST_LOSS, -10 * Math.log10(left / all + 1e-12)));
}

export interface EdgePoint {
  frequencyHz: number;
  aloneLu: number;
  inMixLu: number;
}

const CORNERS: Record<EdgeFilter['type'], { fromHz: number; toHz: number }> = {
  'high-pass': { fromHz: 20, toHz: 2000 },
  'low-pass': { fromHz: 500, toHz: 20000 },
};
const POINTS_PER_OCTAVE = 6;

/** Losses against the corner. @param filter its family, order and the like; its frequency does not matter */
export function edgeCurve(excitation: EdgeExcitation, filter: EdgeFilter, rateHz: number): EdgePoint[] {
  const { fromHz, toHz } = CORNERS[filter.type];
  const count = Math.round(POINTS_PER_OCTAVE * Math.log2(toHz / fromHz));
  return Array.from({ length: count + 1 }, (_, i) => {
    const frequencyHz = fromHz * (toHz / fromHz) ** (i / count);
    const response = powerResponse({ ...filter, frequencyHz }, rateHz);
    return { frequencyHz, aloneLu: lossLu(excitation.alone, response), inMixLu: lossLu(excitation.inMix, response) };
  });
}

/** Loss that counts as heard unless it is changed: common practice for a difference in level that is just noticed is larger. */
export const EDGE_THRESHOLD_LU = 0.2;
const BISECTIONS = 18;

/**
 * The corner that takes just as much as a threshold: the highest high-pass, the lowest low-pass.
 * @param powers of the bands, or what grows with some power of them: `exponent`
 * @returns Hz; null where there is nothing to lose, or even the end of the range loses more
 */
export function edgeCorner(
  powers: ArrayLike<number>,
  filter: EdgeFilter,
  rateHz: number,
  thresholdLu: number,
  exponent = 1,
): number | null {
  const { fromHz, toHz } = CORNERS[filter.type];
  const responseAt = (frequencyHz: number) =>
    powerResponse({ ...filter, frequencyHz }, rateHz).map((power) => power ** exponent);
  const lossAt = (frequencyHz: number) => lossLu(powers, responseAt(frequencyHz));
  const [gentle, harsh] = filter.type === 'high-pass' ? [fromHz, toHz] : [toHz, fromHz];
  if (Array.from(powers).every((power) => power === 0) || lossAt(gentle) > thresholdLu) return null;
  if (lossAt(harsh) <= thresholdLu) return harsh;
  let [fine, tooMuch] = [Math.log(gentle), Math.log(harsh)];
  for (let i = 0; i < BISECTIONS; i++) {
    const middle = (fine + tooMuch) / 2;
    if (lossAt(Math.exp(middle)) <= thresholdLu) fine = middle;
    else tooMuch = middle;
  }
  return Math.exp(fine);
}

/** Where in the song a filter takes most. */
export interface EdgeSpot {
  seconds: number;
  lossLu: number;
}

const SPOT_SECONDS = 1;

/** The second in which a filter takes most of a track that plays: what limits it. @returns null where it never plays */
export function edgeSpot(track: EdgeTrack, filter: EdgeFilter, rateHz: number): EdgeSpot | null {
  const { field, blocks } = track;
  const response = powerResponse(filter, rateHz);
  const played = playedOf(track);
  const length = Math.max(1, Math.round(SPOT_SECONDS / (blockSeconds(blocks, 1) - blockSeconds(blocks, 0))));
  let worst: EdgeSpot | null = null;
  for (let from = 0; from < blocks.count; from += Math.ceil(length / 2)) {
    const window = new Float64Array(SPECTRUM_BANDS);
    let heard = 0;
    for (let block = from; block < Math.min(blocks.count, from + length); block++) {
      if (!played[block]) continue;
      heard++;
      for (let band = 0; band < SPECTRUM_BANDS; band++)
        window[band] += K_POWERS[band] * field.powers[block * SPECTRUM_BANDS + band];
    }
    if (heard < length / 2) continue;
    const loss = lossLu(window, response);
    if (!worst || loss > worst.lossLu) worst = { seconds: blockSeconds(blocks, from), lossLu: loss };
  }
  return worst;
}

/** Parts whose low end is theirs: words of their names. Common practice. */
const LOW_PARTS = /\b(kick|bass|sub|stomp|tuba|foot|808|contrabass)/i;
/** What even they do without, Hz: common practice, "under 30 to 40 Hz". */
export const LOW_PART_CORNER_HZ = 32;

/** True for a kick, a bass and the like, by its part or name. A double bass is one, a bass clarinet too: it plays as low. */
export const isLowPart = ({ part, name }: { part: string; name: string }) => LOW_PARTS.test(part || name);
