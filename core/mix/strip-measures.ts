import { SPECTRUM_BANDS, type StepRange } from '../measure';
import { findStrip, givesWay, keyStripsOf, type Chain, type ChainProcessor, type Song, type Strip } from '../song';

/** What was measured of the sound of a strip whose levels no response tells. */
export interface StripMeasure {
  /** What its chain does beyond the response of its equalizers, dB for each band. */
  beyondDb: ArrayLike<number>;
  /** Of a sum: by how much the strips that feed it add up to more, or less, than their powers, dB for each band; null for a track. */
  addedDb: ArrayLike<number> | null;
  /** Of a track: the name of the levels behind its last processor that reacts; null where there are none. */
  levelsId: string | null;
  /** The processors that were measured. */
  of: Chain;
  /** False where what it was measured of has changed since. */
  isCurrent: boolean;
}
export type StripMeasures = ReadonlyMap<string, StripMeasure>;
export const NOTHING_MEASURED: StripMeasures = new Map();

/** What the server measures of a strip over a stretch. */
export interface StripLevels {
  /** Mean level before the chain, dB for each band; full-scale sine = 0. */
  inDb: number[];
  /** The same behind its last processor that reacts. */
  outDb: number[];
}

/** True for what reacts to a level, or rings: no response tells what it does. */
export const isReactive = (processor: ChainProcessor): boolean =>
  processor.enabled &&
  (processor.kind !== 'equalizer' || processor.bands.some((band) => band.enabled && givesWay(band)));

const parts = new WeakMap<Chain, Chain>();

/** A chain up to its last processor that reacts; what comes behind it follows from responses. */
export function reactivePart(chain: Chain): Chain {
  const known = parts.get(chain);
  if (known) return known;
  const part = chain.slice(0, chain.findLastIndex(isReactive) + 1);
  parts.set(chain, part);
  return part;
}

/** The strips whose levels have to be measured from the sound: those with something that reacts, and those into which several run; each after what feeds it. */
export function measuredStrips(song: Song): Strip[] {
  const strips: Strip[] = [...song.tracks, ...song.buses, song.master];
  const feeds = (id: string) =>
    [...song.tracks, ...song.buses].filter(
      ({ outputId, sends }) => outputId === id || sends.some(({ busId }) => busId === id),
    ).length;
  const wanted = strips.filter(
    (strip) => strip.chain.some(isReactive) || (strip !== song.master && !('audioId' in strip) && feeds(strip.id) > 1),
  );
  const depth = (strip: Strip) => feedingStrips(song, strip.id).size;
  // What feeds a strip is made of fewer.
  return wanted
    .map((strip) => ({ strip, size: depth(strip) }))
    .sort((a, b) => a.size - b.size)
    .map(({ strip }) => strip);
}

/** All strips whose sound a strip's sound is made of: what feeds it, and what is listened to on the way; itself too. */
export function feedingStrips(song: Song, stripId: string): ReadonlySet<string> {
  const wanted = new Set<string>();
  const need = (id: string) => {
    if (wanted.has(id)) return;
    wanted.add(id);
    for (const strip of [...song.tracks, ...song.buses])
      if (strip.outputId === id || strip.sends.some(({ busId }) => busId === id)) need(strip.id);
    const strip = findStrip(song, id);
    if (strip) keyStripsOf(strip).forEach(need);
  };
  need(stripId);
  return wanted;
}

/**
 * The part of a song that some strips are made of: the other tracks are gone, and the other buses only lead on, so that nothing of it listens
 * to what is gone.
 */
export function feedingPart(song: Song, stripIds: readonly string[]): Song {
  const wanted = new Set(stripIds.flatMap((stripId) => [...feedingStrips(song, stripId)]));
  const plain = <T extends Strip>(strip: T): T => (wanted.has(strip.id) ? strip : { ...strip, chain: [] });
  return {
    ...song,
    drafts: [],
    leftOverlaps: [],
    tracks: song.tracks.filter(({ id }) => wanted.has(id)),
    buses: song.buses.map(plain),
    master: plain(song.master),
  };
}

/** Everything that the measure of a strip depends on: the same list of objects as long as it stays true. */
export function measureDependsOn(song: Song, stripId: string, { from, to }: StepRange): readonly unknown[] {
  const strip = findStrip(song, stripId);
  if (!strip) return [];
  const recording = 'audioId' in strip ? [strip.audioId, strip.delayMs, strip.lengthFrames] : [];
  const feeding = feedingStrips(song, stripId);
  const others = [...song.tracks, ...song.buses].filter(({ id }) => id !== stripId && feeding.has(id));
  return [song.rateHz, from, to, ...recording, ...reactivePart(strip.chain), null, ...others];
}

/** True where a strip has the processors that were measured; it may be another state of the song. */
export function fits({ of }: StripMeasure, { chain }: Pick<Strip, 'chain'>): boolean {
  const part = reactivePart(chain);
  return part.length === of.length && part.every((processor, i) => processor === of[i]);
}

/** True where what is shown of levels is an estimate: something is on that reacts, and was not measured as it is now. */
export const isEstimated = (song: Song, measures: StripMeasures = NOTHING_MEASURED): boolean =>
  [...song.tracks, ...song.buses, song.master].some(
    ({ id, chain }) => chain.some(isReactive) && !measures.get(id)?.isCurrent,
  );

/** What reacts in a chain does beyond the responses, dB for each band. */
export const beyondDb = (before: ArrayLike<number>, after: ArrayLike<number>, responseDb: ArrayLike<number>) =>
  Float64Array.from({ length: SPECTRUM_BANDS }, (_, band) =>
    // Of what is hardly there nothing can be told.
    before[band] < LEAST_DB ? 0 : Math.max(-MOST_BEYOND_DB, after[band] - before[band] - responseDb[band]),
  );
const LEAST_DB = -110;
const MOST_BEYOND_DB = 120;
