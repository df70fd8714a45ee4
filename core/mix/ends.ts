import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, type FrequencyBand } from '../measure';
import { brightCorner } from './brightness';
import {
  edgeCorner,
  edgeExcitation,
  EDGE_THRESHOLD_LU,
  isLowPart,
  LOW_PART_CORNER_HZ,
  type EdgeExcitation,
  type EdgeFilter,
  type EdgeTrack,
} from './edge';

/** A stretch of blocks: a part of the song. */
export interface BlockRange {
  from: number;
  to: number;
}

/** How ends are looked for. */
export interface EndsOptions {
  rateHz: number;
  parts: readonly BlockRange[];
  /** What other tracks claim: an upper end is worth shutting for them. */
  wanted: readonly FrequencyBand[];
  /** True to go as far as the mix covers what is taken, up to an octave past what is missed of the track alone. */
  isBold: boolean;
}

/** An end as it would be set. */
export interface ProposedEnd {
  frequencyHz: number;
  /** The part that limits it, by its number; null where none does. */
  part: number | null;
  /** What it is for. */
  why: 'unmissed' | 'keeps-lows' | 'noise-above' | 'wanted-above';
}

/** A corner stays this far on the safe side of what is just missed. */
const MARGIN = 0.92;
/** In a part that holds less of a track than this share of its blocks it hardly plays. */
const LEAST_PART = 0.04;
/** The mix may cover what a track is made of: no more than an octave past what is missed of it alone. */
const PAST_ALONE = 2;

interface PartEdge {
  part: number;
  aloneHz: number;
  inMixHz: number;
  /** How much of the track is heard beside the rest, 0 to 1. */
  exposed: number;
}

const sumOf = (powers: Float64Array) => powers.reduce((sum, power) => sum + power, 0);

/** Corners in each part of the song in which a track plays. */
function partEdges(track: EdgeTrack, filter: EdgeFilter, { parts, rateHz }: EndsOptions): PartEdge[] {
  const within = parts.map((range): EdgeExcitation => edgeExcitation(track, range));
  const total = within.reduce((sum, { alone }) => sum + sumOf(alone), 0);
  return within.flatMap(({ alone, inMix }, part): PartEdge[] => {
    const own = sumOf(alone);
    if (own === 0 || own < LEAST_PART * total) return [];
    const aloneHz = edgeCorner(alone, filter, rateHz, EDGE_THRESHOLD_LU);
    const inMixHz = edgeCorner(inMix, filter, rateHz, EDGE_THRESHOLD_LU);
    return aloneHz === null || inMixHz === null ? [] : [{ part, aloneHz, inMixHz, exposed: sumOf(inMix) / own }];
  });
}

/** Where the walk ends: alone first, where the track is most exposed, then in the mix, part by part; the margin is kept. */
function walked(edges: readonly PartEdge[], isHighPass: boolean, isBold: boolean): { hz: number; part: number } | null {
  if (edges.length === 0) return null;
  const gentler = (first: number, second: number) => (isHighPass ? Math.min(first, second) : Math.max(first, second));
  const exposed = edges.reduce((most, edge) => (edge.exposed > most.exposed ? edge : most));
  const narrowest = edges.reduce((best, edge) => (gentler(edge.inMixHz, best.inMixHz) === edge.inMixHz ? edge : best));
  const past = isBold ? PAST_ALONE : 1;
  const farthest = isHighPass ? exposed.aloneHz * past : exposed.aloneHz / past;
  const hz = gentler(farthest, narrowest.inMixHz);
  return {
    hz: isHighPass ? hz * MARGIN : hz / MARGIN,
    part: hz === narrowest.inMixHz ? narrowest.part : exposed.part,
  };
}

/** Corners beyond these are not worth a filter, Hz; and none is proposed past those. Common practice. */
const HIGH_PASS_HZ = { min: 24, max: 400 };
const LOW_PASS_HZ = { min: 3000, max: 17000 };

/** The high-pass that a track would get; kick and bass keep their lows, but for what lies under them. @returns null for none */
export function proposeHighPass(
  track: EdgeTrack,
  named: { part: string; name: string },
  filter: EdgeFilter,
  options: EndsOptions,
): ProposedEnd | null {
  if (isLowPart(named)) return { frequencyHz: LOW_PART_CORNER_HZ, part: null, why: 'keeps-lows' };
  const found = walked(partEdges(track, filter, options), true, options.isBold);
  if (!found || found.hz < HIGH_PASS_HZ.min) return null;
  return { frequencyHz: Math.min(HIGH_PASS_HZ.max, found.hz), part: found.part, why: 'unmissed' };
}

/** Noise is as loud while nothing is played: its level moves by no more than this from soft to loud moments, dB. */
const STEADY_DB = 5;
/** A recording that moves less than this as a whole tells nothing of what is noise in it, dB. */
const LEAST_MOVEMENT_DB = 9;
/** A band that lies further down than this is nothing, dB relative to a full-scale sine. */
const NOTHING_DB = -100;
/** What another track wants is worth an end where this one is no further below it there, dB. */
const IN_THE_WAY_DB = 24;

const levelDb = (power: number) => 10 * Math.log10(power + 1e-15);

/** How much levels move from soft to loud moments, dB. @param sorted dB */
function movementOf(sorted: Float64Array): number {
  const [soft, loud] = [0.1, 0.85].map((share) => sorted[Math.floor(share * (sorted.length - 1))]);
  return loud - soft;
}

/** From where on up there is only noise that hardly moves, Hz; null where there is none. */
function noiseFromHz({ field, blocks }: EdgeTrack): number | null {
  const column = new Float64Array(blocks.count);
  const total = new Float64Array(blocks.count);
  let from: number | null = null;
  let isSteady = true;
  for (let band = SPECTRUM_BANDS - 1; band >= 0; band--) {
    for (let block = 0; block < blocks.count; block++) {
      const power = field.powers[block * SPECTRUM_BANDS + band];
      total[block] += power;
      column[block] = levelDb(power);
    }
    const sorted = column.filter((db) => db > NOTHING_DB).sort();
    if (!isSteady || sorted.length < blocks.count / 2) continue;
    isSteady = movementOf(sorted) <= STEADY_DB;
    if (isSteady) from = SPECTRUM_CENTERS_HZ[band];
  }
  return movementOf(total.map(levelDb).sort()) < LEAST_MOVEMENT_DB ? null : from;
}

/** True where a track stands in what another wants above a corner: what it has there is not far below everything else. */
function isInTheWay({ field, rest, blocks }: EdgeTrack, fromHz: number, { lowHz, highHz }: FrequencyBand): boolean {
  let [own, other] = [0, 0];
  SPECTRUM_CENTERS_HZ.forEach((hz, band) => {
    if (hz < Math.max(fromHz, lowHz) || hz > highHz) return;
    for (let block = 0; block < blocks.count; block++) {
      own += field.excitation[block * SPECTRUM_BANDS + band];
      other += rest[block * SPECTRUM_BANDS + band];
    }
  });
  return own > 0 && levelDb(own) > levelDb(other) - IN_THE_WAY_DB;
}

/** The lowest corner that takes nothing of a track's brightness that is missed, in any part in which it plays; alone, or boldly in the mix. */
function brightHz(track: EdgeTrack, filter: EdgeFilter, edges: readonly PartEdge[], options: EndsOptions): number {
  const corners = edges.map(({ part }) =>
    brightCorner(track, filter, options.rateHz, options.parts[part], options.isBold),
  );
  return corners.reduce<number>((highest, hz) => Math.max(highest, hz ?? Infinity), 0) / MARGIN;
}

/** The low-pass that a track would get: only where there is noise above, or another track wants that range. @returns null for none */
export function proposeLowPass(track: EdgeTrack, filter: EdgeFilter, options: EndsOptions): ProposedEnd | null {
  const edges = partEdges(track, filter, options);
  const found = walked(edges, false, options.isBold);
  if (!found) return null;
  const noiseHz = noiseFromHz(track);
  const wanted = options.wanted
    .filter((claim) => claim.highHz > 1.2 * found.hz && isInTheWay(track, found.hz, claim))
    .sort((a, b) => a.lowHz - b.lowHz)[0];
  const ends = [
    ...(noiseHz === null ? [] : [{ hz: Math.max(found.hz, noiseHz), why: 'noise-above' as const }]),
    // No lower than the other needs it, nor than this one stays as bright as it is.
    ...(wanted
      ? [
          {
            hz: Math.max(found.hz, wanted.lowHz, brightHz(track, filter, edges, options)),
            why: 'wanted-above' as const,
          },
        ]
      : []),
  ].sort((a, b) => a.hz - b.hz);
  const [end] = ends;
  if (!end || end.hz > LOW_PASS_HZ.max) return null;
  return { frequencyHz: Math.max(LOW_PASS_HZ.min, end.hz), part: found.part, why: end.why };
}
