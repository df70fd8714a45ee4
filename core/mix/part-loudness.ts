import { compileSong, heardSong, PLAIN_HEARING, type Scope } from '../engine';
import {
  integratedLufs,
  STEPS_PER_SECOND,
  SPECTRUM_BANDS,
  SPECTRUM_CENTERS_HZ,
  weightedPowers,
  type StepRange,
} from '../measure';
import { findStrip, MASTER_ID, songLengthFrames, type Song, type Strip, type Track } from '../song';
import { chainResponseDb } from './gains';

/** What recordings are like over time, by recording: see `BandLevelsAnalyser`. */
export type BandLevels = Readonly<Record<string, Uint8Array>>;

const rangeOf = (startSeconds: number, endSeconds: number): StepRange => ({
  from: Math.floor(startSeconds * STEPS_PER_SECOND),
  to: Math.max(1, Math.ceil(endSeconds * STEPS_PER_SECOND)),
});

/** The whole song in steps of 50 ms. */
export const wholeRange = (song: Song): StepRange => rangeOf(0, songLengthFrames(song) / song.rateHz);

/** The loop, or the whole song where nothing is looped, in steps of 50 ms. */
export const listenedRange = (song: Song): StepRange =>
  song.loop?.enabled ? rangeOf(song.loop.startSeconds, song.loop.endSeconds) : wholeRange(song);

interface Part {
  /** The strip whose share of the mix is measured; the master for all of it. */
  stripId: string;
  without?: Scope | null;
  lowHz?: number;
  highHz?: number;
}

const isBypassed = (without: Scope | null, strip: Strip) =>
  without?.kind === 'mix' || (without?.kind === 'strip' && without.stripId === strip.id);

/** The strips that a track's signal passes on its way out, itself first. */
function wayOf(song: Song, track: Track): Strip[] {
  const way: Strip[] = [];
  for (
    let strip: Strip | undefined = track;
    strip;
    strip = 'outputId' in strip ? findStrip(song, strip.outputId) : undefined
  )
    way.push(strip);
  return way;
}

interface KnownPowers {
  levels: Uint8Array;
  key: string;
  way: readonly Strip[];
  powers: Float64Array;
}
const known = new WeakMap<Track, KnownPowers[]>();
/** States of a track that are kept: as it is, without something, in a range. */
const MOST_KNOWN = 4;

/** What a track adds in every step; kept, so that a change of one track works out one track anew. */
function powersOf(song: Song, track: Track, levels: Uint8Array, part: Part, range: StepRange): Float64Array {
  const way = wayOf(song, track);
  const key = JSON.stringify([part.without?.kind === 'band' ? null : part.without, part.lowHz, part.highHz, range]);
  const kept = known.get(track) ?? [];
  const found = kept.find(
    (kept) => kept.levels === levels && kept.key === key && kept.way.every((strip, i) => strip === way[i]),
  );
  if (found) return found.powers;
  const powers = weightedPowers(levels, track.channels, wayGains(song, way, part), range);
  known.set(track, [{ levels, key, way, powers }, ...kept].slice(0, MOST_KNOWN));
  return powers;
}

/** What a track's power meets on its way out, one gain for each band. */
function wayGains(song: Song, way: readonly Strip[], { without = null, lowHz = 0, highHz = Infinity }: Part) {
  const db = new Float64Array(SPECTRUM_BANDS);
  for (const strip of way) {
    const channels = 'channels' in strip ? strip.channels : 2;
    const response = isBypassed(without, strip) ? null : chainResponseDb(strip.chain, channels, song.rateHz);
    for (let i = 0; i < SPECTRUM_BANDS; i++) db[i] += strip.gainDb + (response?.[i] ?? 0);
  }
  return db.map((value, i) =>
    SPECTRUM_CENTERS_HZ[i] >= lowHz && SPECTRUM_CENTERS_HZ[i] <= highHz ? 10 ** (value / 10) : 0,
  );
}

/**
 * Integrated loudness (BS.1770) of a part of the mix over what is listened to, from the stored analysis: tracks are added as powers.
 * @returns LUFS; −Infinity for silence, or where the analysis is not here yet
 */
export function partLufs(song: Song, levels: BandLevels, part: Part): number {
  const range = listenedRange(song);
  const heard = part.without ? heardSong(song, { ...PLAIN_HEARING, without: part.without }) : song;
  const { tracks } = compileSong(heard);
  const sum = new Float64Array(Math.max(0, range.to - range.from));
  heard.tracks.forEach((track, i) => {
    const bytes = levels[track.audioId];
    if (!bytes) return;
    const way = wayOf(heard, track);
    const isPart = part.stripId === MASTER_ID || way.some(({ id }) => id === part.stripId);
    // A part that is heard by itself is measured though it is muted.
    const isHeard =
      part.stripId !== MASTER_ID || (tracks[i].audible === 1 && !way.some((strip) => 'muted' in strip && strip.muted));
    if (!isPart || !isHeard) return;
    const powers = powersOf(heard, track, bytes, part, range);
    for (let step = 0; step < sum.length; step++) sum[step] += powers[step];
  });
  return integratedLufs(sum);
}
