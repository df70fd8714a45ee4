import { compileSong } from '../engine';
import { chainPowerDb, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from '../measure';
import { findStrip, givesWay, stripChannels, type Chain, type Song, type Strip, type Track } from '../song';

/**
 * What a track's power meets on its way to the ears. An equalizer is linear, so whatever is measured of a recording in bands is known
 * after it too: nothing is measured again while a band is dragged.
 */
const responses = new WeakMap<Chain, { rateHz: number; channels: 1 | 2; db: Float64Array }>();

/** True where what a song's strips do to levels is an estimate: something is on that reacts to a level, or rings, which no response tells of. */
export const isEstimated = (song: Song): boolean =>
  [...song.tracks, ...song.buses, song.master].some(({ chain }) =>
    chain.some(
      (processor) =>
        processor.enabled &&
        (processor.kind !== 'equalizer' || processor.bands.some((band) => band.enabled && givesWay(band))),
    ),
  );

/** Response of a chain at the middles of the 120 bands, dB. */
export function chainResponseDb(chain: Chain, channels: 1 | 2, rateHz: number): Float64Array {
  const known = responses.get(chain);
  if (known?.rateHz === rateHz && known.channels === channels) return known.db;
  const db = chainPowerDb(chain, channels, SPECTRUM_CENTERS_HZ, rateHz);
  responses.set(chain, { rateHz, channels, db });
  return db;
}

const powerOf = (db: number) => 10 ** (db / 10);

/** What the levels of a strip's middle and sides do to its power, dB: their mean, since it is not known how the signal is shared out. */
export function sidesDb(strip: Strip): number {
  if (!('midDb' in strip) || stripChannels(strip) === 1 || (strip.midDb === 0 && strip.sideDb === 0)) return 0;
  return 10 * Math.log10((powerOf(strip.midDb) + powerOf(strip.sideDb)) / 2);
}

function chainGains(strip: Strip, channels: 1 | 2, rateHz: number, isPlain: boolean): Float64Array {
  if (isPlain) return new Float64Array(SPECTRUM_BANDS).fill(1);
  const sides = powerOf(sidesDb(strip));
  return chainResponseDb(strip.chain, channels, rateHz).map((db) => powerOf(db) * sides);
}

/** Power gains from the input of a bus, or of the master, to the ears; nothing through a bus that is muted. */
function onward(song: Song, stripId: string, isPlain: boolean, known: Map<string, Float64Array>): Float64Array {
  const kept = known.get(stripId);
  if (kept) return kept;
  const strip = findStrip(song, stripId) ?? song.master;
  const own = chainGains(strip, 2, song.rateHz, isPlain);
  const gains =
    'outputId' in strip
      ? through(song, strip, own, isPlain, known)
      : own.map((gain) => gain * powerOf(song.master.gainDb));
  known.set(stripId, gains);
  return gains;
}

/** From behind a strip's chain on: its fader, its output and its sends, whose powers are added. */
function through(
  song: Song,
  strip: Exclude<Strip, Song['master']>,
  own: Float64Array,
  isPlain: boolean,
  known: Map<string, Float64Array>,
): Float64Array {
  const fader = powerOf(strip.gainDb);
  const output = onward(song, strip.outputId, isPlain, known);
  const compiled = compileSong(song);
  const { audible, sends: heard } = [...compiled.tracks, ...compiled.buses].find(({ id }) => id === strip.id)!;
  const sends = strip.sends.map(({ busId, gainDb, tap }, i) => ({
    gain: powerOf(gainDb) * (tap === 'after-fader' ? fader : 1) * heard[i].audible,
    bus: onward(song, busId, isPlain, known),
  }));
  const direct = fader * audible;
  return own.map((gain, i) => gain * sends.reduce((sum, send) => sum + send.gain * send.bus[i], direct * output[i]));
}

/** A track as the measures of a mix see it. */
export interface MixTrack {
  id: string;
  audioId: string;
  channels: 1 | 2;
  /** Power gain of each band from the recording to the ears; all 0 where it is not heard. */
  gains: Float64Array;
}

/** @param isPlain true for the mix without its equalizers: "before" */
export function mixTracks(song: Song, isPlain = false): MixTrack[] {
  const { tracks } = compileSong(song);
  const known = new Map<string, Float64Array>();
  return song.tracks.map((track, i) => {
    const { id, audioId, channels } = track;
    const isHeard = tracks[i].audible === 1 || tracks[i].sends.some(({ audible }) => audible === 1);
    return { id, audioId, channels, gains: isHeard ? trackGains(song, track, isPlain, known) : SILENT };
  });
}
const SILENT = new Float64Array(SPECTRUM_BANDS);

const trackGains = (song: Song, track: Track, isPlain: boolean, known: Map<string, Float64Array>) =>
  through(song, track, chainGains(track, track.channels, song.rateHz, isPlain), isPlain, known);
