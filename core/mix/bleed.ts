import { Cascade, equalizerSections, MAX_BLOCK, type MixRange, type SourceOf } from '../engine';
import { findBleed, type Bleed, type FrequencyBand } from '../measure';
import { gateThresholdDb } from '../processors';
import { BAND_DEFAULTS, GIVES_WAY, MASTER_ID, Q_RANGE, type BandSettings, type Song } from '../song';
import { loudestPart, soundOf } from './alignment';

/** Bleed that is found between two tracks of a song. */
export interface FoundBleed extends Bleed {
  /** From this level of the source in that range on it sounds, dBFS. */
  thresholdDb: number;
}

const PEAK_SECONDS = 0.05;
/** Where the source sounds all the time: so far below its loud moments. */
const BELOW_LOUD_DB = 12;

/** Peaks of a sound within a range, one for every 50 ms, dBFS. */
function peaksWithin(samples: Float64Array, { lowHz, highHz }: FrequencyBand, rateHz: number): Float64Array {
  const end = { ...BAND_DEFAULTS, order: 4 };
  const bands: BandSettings[] = [
    { ...end, type: 'high-pass', frequencyHz: lowHz },
    { ...end, type: 'low-pass', frequencyHz: Math.min(highHz, 0.45 * rateHz) },
  ];
  const cascade = new Cascade(equalizerSections({ bands, outputGainDb: 0 }, rateHz, 1), rateHz);
  const heard = samples.slice();
  for (let at = 0; at < heard.length; at += MAX_BLOCK) {
    const block = heard.subarray(at, at + MAX_BLOCK);
    cascade.process(block, null, block.length);
  }
  cascade.release();
  const length = Math.round(PEAK_SECONDS * rateHz);
  return Float64Array.from({ length: Math.floor(heard.length / length) }, (_, i) => {
    const peak = heard
      .subarray(i * length, (i + 1) * length)
      .reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    return 20 * Math.log10(peak + 1e-10);
  });
}

/** Some tracks of a song as they were recorded: without chains, faders and delays, and nothing else. */
export function asRecorded(song: Song, trackIds: readonly string[]): Song {
  const plain = { muted: false, soloed: false, gainDb: 0, pan: 0, midDb: 0, sideDb: 0, delayMs: 0 };
  const bare = { chain: [], sends: [], outputId: MASTER_ID, polarityInverted: false };
  return {
    ...song,
    tracks: song.tracks.filter(({ id }) => trackIds.includes(id)).map((track) => ({ ...track, ...plain, ...bare })),
    buses: [],
    passages: [],
    drafts: [],
    leftOverlaps: [],
  };
}

/**
 * What of a source is heard in another track's recording.
 * @param song see {@link asRecorded}
 * @param trackId of the one that is asked about
 * @returns null where nothing of it is there; see `findBleed`
 */
export function bleedInto(
  song: Song,
  trackId: string,
  sourceId: string,
  sourceOf: SourceOf,
  range: MixRange,
): FoundBleed | null {
  const [recording, source] = [trackId, sourceId].map((id) => soundOf(song, id, sourceOf, range));
  const { from, to } = loudestPart([recording, source], song.rateHz);
  const found = findBleed(recording.subarray(from, to), source.subarray(from, to), song.rateHz);
  if (!found) return null;
  const peaks = peaksWithin(source, found, song.rateHz);
  const loud = peaks.slice().sort()[Math.floor(0.9 * (peaks.length - 1))];
  const thresholdDb = gateThresholdDb(peaks) ?? loud - BELOW_LOUD_DB;
  return { ...found, thresholdDb: Math.min(0, Math.max(-80, Math.round(thresholdDb))) };
}

/** How far a band goes back while the source sounds, dB, to begin with. */
const GIVES_DB = -9;
/** From here down a range has no lower end. */
const LOWEST_HZ = 45;
/** So much of what is the track's own may lie below a high-pass, dB beside all of it. */
const MISSED_DB = -25;

const tidy = (hz: number) => Number(hz.toPrecision(2));

/**
 * A band that answers bleed, to begin with: a high-pass above it where hardly anything of the track's own lies below; else a band that gives way
 * while the source sounds.
 */
export function bandForBleed(bleed: FoundBleed, sourceId: string): BandSettings {
  const { lowHz, highHz, thresholdDb } = bleed;
  if (ownBelowDb(bleed, highHz) < MISSED_DB)
    return { ...BAND_DEFAULTS, type: 'high-pass', frequencyHz: tidy(highHz), order: 3 };
  const reachesDown = lowHz <= LOWEST_HZ;
  const givesWay = {
    amountDb: GIVES_DB,
    thresholdDb,
    attackMs: GIVES_WAY.attackMs.start,
    holdMs: GIVES_WAY.holdMs.start,
    releaseMs: GIVES_WAY.releaseMs.start,
    key: { stripId: sourceId, lowHz: reachesDown ? null : tidy(lowHz), highHz: tidy(highHz) },
  };
  const moving = { ...BAND_DEFAULTS, gainDb: 0, givesWay };
  if (reachesDown) return { ...moving, type: 'low-shelf', frequencyHz: tidy(highHz) };
  const middle = Math.sqrt(lowHz * highHz);
  const q = Math.min(Q_RANGE.max, Math.max(Q_RANGE.min, Number((middle / (highHz - lowHz)).toPrecision(2))));
  return { ...moving, type: 'bell', frequencyHz: tidy(middle), q };
}

/** Power below a frequency that does not come from the other, beside all such power, dB. */
function ownBelowDb({ picture: { frequenciesHz, wholeDb, othersDb } }: Bleed, highHz: number): number {
  const own = wholeDb.map((db, i) => Math.max(0, 10 ** (db / 10) - 10 ** (othersDb[i] / 10)));
  const sum = (from: number, to: number) =>
    own.reduce((total, power, i) => (frequenciesHz[i] >= from && frequenciesHz[i] < to ? total + power : total), 0);
  return 10 * Math.log10((sum(0, highHz) + 1e-12) / (sum(0, Infinity) + 1e-12));
}
