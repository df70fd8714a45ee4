import { compileSong, heardSong, PLAIN_HEARING, type Scope } from '../engine';
import {
  integratedLufs,
  rowsOver,
  STEPS_PER_SECOND,
  SPECTRUM_BANDS,
  SPECTRUM_CENTERS_HZ,
  weightedPowers,
  type LevelRows,
  type StepRange,
} from '../measure';
import { findStrip, MASTER_ID, songLengthFrames, type Song, type Strip, type Track } from '../song';
import { sidesDb, stripChainDb } from './gains';
import { changedTracks, stillSpans } from './passage-spans';
import { fits, NOTHING_MEASURED, type StripMeasures } from './strip-measures';

/** What recordings are like over time, by recording: one or several stretches of each. */
export type BandLevels = Readonly<Record<string, readonly LevelRows[]>>;

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
  measures?: StripMeasures;
}

const isBypassed = (without: Scope | null, strip: Strip) =>
  without?.kind === 'mix' || (without?.kind === 'strip' && without.stripId === strip.id);

/** A strip that a signal passes, and how it leaves it: by its output, or by a send of a gain. */
interface Hop {
  strip: Strip;
  /** False for a send that is tapped before the fader. */
  fader: boolean;
  sendDb: number;
  /** False where the way ends here since it is muted, or left out by a solo. */
  isOpen: boolean;
}

/** Every way of a signal from a strip to the master, by outputs and sends. @param isOpen tells whether a strip's output, or its send of a number, is heard */
function routesFrom(song: Song, strip: Strip, isOpen: (strip: Strip, send?: number) => boolean): Hop[][] {
  if (!('outputId' in strip)) return [[{ strip, fader: true, sendDb: 0, isOpen: true }]];
  const onwards = (hop: Hop, toId: string) => {
    const next = findStrip(song, toId);
    return next ? routesFrom(song, next, isOpen).map((route) => [hop, ...route]) : [];
  };
  return [
    ...onwards({ strip, fader: true, sendDb: 0, isOpen: isOpen(strip) }, strip.outputId),
    ...strip.sends.flatMap(({ busId, gainDb, tap }, i) =>
      onwards({ strip, fader: tap === 'after-fader', sendDb: gainDb, isOpen: isOpen(strip, i) }, busId),
    ),
  ];
}

interface KnownPowers {
  levels: LevelRows;
  key: string;
  routes: readonly Hop[][];
  powers: Float64Array;
  measures: StripMeasures | undefined;
}
const known = new WeakMap<Track, KnownPowers[]>();
/** States of a track that are kept: as it is, without something, in a range. */
const MOST_KNOWN = 4;

const areSame = (routes: readonly Hop[][], others: readonly Hop[][]) =>
  routes.length === others.length &&
  routes.every(
    (route, i) => route.length === others[i].length && route.every(({ strip }, hop) => strip === others[i][hop].strip),
  );

/** What a track adds in every step by some of its ways; kept, so that a change of one track works out one track anew. */
function powersOf(
  song: Song,
  track: Track,
  routes: readonly Hop[][],
  levels: LevelRows,
  part: Part,
  range: StepRange,
): Float64Array {
  const key = JSON.stringify([
    // What is switched off in the song itself is in the track.
    part.without?.kind === 'band' || part.without?.kind === 'processor' ? null : part.without,
    part.lowHz,
    part.highHz,
    range.from,
    range.to,
  ]);
  const kept = known.get(track) ?? [];
  const found = kept.find(
    (kept) =>
      kept.levels === levels && kept.measures === part.measures && kept.key === key && areSame(kept.routes, routes),
  );
  if (found) return found.powers;
  const powers = weightedPowers(levels, track.channels, routeGains(song, routes, part), range);
  known.set(track, [{ levels, measures: part.measures, key, routes, powers }, ...kept].slice(0, MOST_KNOWN));
  return powers;
}

/** What a track's power meets on its ways out, one gain for each band. The ways carry one signal, so they are added as amplitudes, as if none of them were late. */
function routeGains(
  song: Song,
  routes: readonly Hop[][],
  { without = null, lowHz = 0, highHz = Infinity, measures = NOTHING_MEASURED }: Part,
): Float64Array {
  const known = (strip: Strip) => {
    const measure = measures.get(strip.id);
    return measure && fits(measure, strip) ? measures : NOTHING_MEASURED;
  };
  const amplitudes = new Float64Array(SPECTRUM_BANDS);
  for (const route of routes) {
    const db = new Float64Array(SPECTRUM_BANDS);
    let sign = 1;
    for (const { strip, fader, sendDb } of route) {
      const response = isBypassed(without, strip) ? null : stripChainDb(strip, song.rateHz, known(strip));
      const level = (fader ? strip.gainDb : 0) + sendDb + sidesDb(strip);
      for (let i = 0; i < SPECTRUM_BANDS; i++) db[i] += level + (response?.[i] ?? 0);
      if (fader && 'polarityInverted' in strip && strip.polarityInverted) sign = -sign;
    }
    for (let i = 0; i < SPECTRUM_BANDS; i++) amplitudes[i] += sign * 10 ** (db[i] / 20);
  }
  return amplitudes.map((value, i) =>
    SPECTRUM_CENTERS_HZ[i] >= lowHz && SPECTRUM_CENTERS_HZ[i] <= highHz ? value * value : 0,
  );
}

/**
 * Integrated loudness (BS.1770) of a part of the mix over what is listened to, from the stored analysis: tracks are added as powers.
 * @returns LUFS; −Infinity for silence, or where the analysis is not here yet
 */
export function partLufs(song: Song, levels: BandLevels, part: Part): number {
  const range = listenedRange(song);
  const heard = part.without ? heardSong(song, { ...PLAIN_HEARING, without: part.without }) : song;
  const plain = heard.passages.length === 0 ? heard : { ...heard, passages: [] };
  const powersIn = trackPowers(plain, levels, part);
  const sum = new Float64Array(Math.max(0, range.to - range.from));
  const whole = plain.tracks.map((track) => powersIn(track, range));
  for (const powers of whole) if (powers) for (let step = 0; step < sum.length; step++) sum[step] += powers[step];
  if (plain === heard) return integratedLufs(sum);
  for (const span of stillSpans(heard, range)) {
    const changed = changedTracks(heard, span);
    const now = changed.size > 0 ? trackPowers(span.song, levels, part) : null;
    heard.tracks.forEach(({ id }, i) => {
      if (!now || !changed.has(id)) return;
      const powers = now(span.song.tracks[i], span);
      for (let step = span.from; step < span.to; step++) {
        const at = step - range.from;
        sum[at] = Math.max(0, sum[at] + (powers?.[step - span.from] ?? 0) - (whole[i]?.[at] ?? 0));
      }
    });
  }
  return integratedLufs(sum);
}

/** What the tracks of a song that stays as it is add to a part of the mix, step by step; null for those that add nothing. */
function trackPowers(
  song: Song,
  levels: BandLevels,
  part: Part,
): (track: Track, range: StepRange) => Float64Array | null {
  const { tracks, buses } = compileSong(song);
  const compiled = new Map([...tracks, ...buses].map((strip) => [strip.id, strip]));
  const isOpen = ({ id }: Strip, send?: number) => {
    const strip = compiled.get(id);
    return !strip || (send === undefined ? strip.audible : strip.sends[send].audible) === 1;
  };
  return (track, range) => {
    const rows = rowsOver(levels[track.audioId] ?? [], range);
    if (!rows) return null;
    const routes = routesFrom(song, track, isOpen).filter((route) =>
      // A part that is heard by itself is measured though it is muted.
      part.stripId === MASTER_ID
        ? route.every(({ isOpen }) => isOpen)
        : route.some(({ strip }) => strip.id === part.stripId),
    );
    return routes.length === 0 ? null : powersOf(song, track, routes, rows, part, range);
  };
}
