import { compileSong } from '../engine';
import { chainPowerDb, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from '../measure';
import {
  channelsOut,
  findStrip,
  MASTER_ID,
  stripChannels,
  type Bus,
  type Chain,
  type Song,
  type Strip,
  type Track,
} from '../song';
import { NOTHING_MEASURED, reactivePart, type StripMeasures } from './strip-measures';

/**
 * What a track's power meets on its way to the ears. An equalizer is linear, so whatever is measured of a recording in bands is known
 * after it too: nothing is measured again while a band is dragged.
 */
const responses = new WeakMap<Chain, { rateHz: number; channels: 1 | 2; db: Float64Array }>();

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
  if (!('midDb' in strip) || channelsOut(strip) === 1 || (strip.midDb === 0 && strip.sideDb === 0)) return 0;
  return 10 * Math.log10((powerOf(strip.midDb) + powerOf(strip.sideDb)) / 2);
}

/** What a strip's chain does to power, dB for each band: its response, and what was measured beyond that. */
export function stripChainDb(strip: Strip, rateHz: number, measures: StripMeasures): Float64Array {
  const response = chainResponseDb(strip.chain, stripChannels(strip), rateHz);
  const beyond = measures.get(strip.id)?.beyondDb;
  return beyond ? response.map((db, band) => db + beyond[band]) : response;
}

/** How a song's levels are seen. */
export interface GainsOf {
  /** True for the song without its chains: "before". */
  isPlain?: boolean;
  measures?: StripMeasures;
  /** Ids of the tracks that are asked for; the default is all. */
  only?: ReadonlySet<string>;
}

/** One song's gains, as far as they are worked out. */
interface Gains {
  song: Song;
  isPlain: boolean;
  measures: StripMeasures;
  /** True where sums count as they add up, not as powers. */
  addsUp: boolean;
  /** By strip: from its input to where power is asked for. */
  onward: Map<string, Float64Array>;
}
const gainsOf = (song: Song, { isPlain = false, measures = NOTHING_MEASURED }: GainsOf): Gains => ({
  song,
  isPlain,
  measures,
  addsUp: false,
  onward: new Map(),
});

function chainGains({ song, isPlain, measures, addsUp }: Gains, strip: Strip): Float64Array {
  if (isPlain) return new Float64Array(SPECTRUM_BANDS).fill(1);
  const sides = sidesDb(strip);
  const added = addsUp ? measures.get(strip.id)?.addedDb : null;
  return stripChainDb(strip, song.rateHz, measures).map((db, band) => powerOf(db + sides + (added?.[band] ?? 0)));
}

/** Power gains from the input of a bus, or of the master, to the ears; nothing through a bus that is muted. */
function onward(all: Gains, stripId: string): Float64Array {
  const kept = all.onward.get(stripId);
  if (kept) return kept;
  const { master } = all.song;
  const strip = findStrip(all.song, stripId) ?? master;
  const own = chainGains(all, strip);
  const gains = 'outputId' in strip ? through(all, strip, own) : own.map((gain) => gain * powerOf(master.gainDb));
  all.onward.set(stripId, gains);
  return gains;
}

/** From behind a strip's chain on: its fader, its output and its sends, whose powers are added. */
function through(all: Gains, strip: Exclude<Strip, Song['master']>, own: Float64Array): Float64Array {
  const fader = powerOf(strip.gainDb);
  const output = onward(all, strip.outputId);
  const compiled = compileSong(all.song);
  const { audible, sends: heard } = [...compiled.tracks, ...compiled.buses].find(({ id }) => id === strip.id)!;
  const sends = strip.sends.map(({ busId, gainDb, tap }, i) => ({
    gain: powerOf(gainDb) * (tap === 'after-fader' ? fader : 1) * heard[i].audible,
    bus: onward(all, busId),
  }));
  const direct = fader * audible;
  return own.map((gain, i) => gain * sends.reduce((sum, send) => sum + send.gain * send.bus[i], direct * output[i]));
}

/** A track as the measures of a mix see it. */
export interface MixTrack {
  id: string;
  /** Of its recording, or of what was measured of it behind its last processor that reacts. */
  audioId: string;
  channels: 1 | 2;
  /** Power gain of each band from there to the ears; all 0 where it is not heard. */
  gains: Float64Array;
}

export function mixTracks(song: Song, of: GainsOf = {}): MixTrack[] {
  const { tracks } = compileSong(song);
  const all = gainsOf(song, of);
  return song.tracks.flatMap((track, i) => {
    const { id, audioId, channels } = track;
    if (of.only && !of.only.has(id)) return [];
    const isHeard = tracks[i].audible === 1 || tracks[i].sends.some(({ audible }) => audible === 1);
    const measured = all.isPlain ? null : measuredLevels(all, track);
    const gains = isHeard ? through(all, track, measured?.gains ?? chainGains(all, track)) : SILENT;
    return { id, audioId: measured?.audioId ?? audioId, channels, gains };
  });
}
const SILENT = new Float64Array(SPECTRUM_BANDS);

/** What was measured of a track behind what reacts in its chain, and what the rest of the chain does. */
function measuredLevels({ song, measures }: Gains, track: Track): Pick<MixTrack, 'audioId' | 'gains'> | null {
  const measure = measures.get(track.id);
  if (!measure?.isCurrent || measure.levelsId === null) return null;
  const response = (chain: Chain) => chainResponseDb(chain, track.channels, song.rateHz);
  const [whole, part] = [response(track.chain), response(reactivePart(track.chain))];
  const sides = powerOf(sidesDb(track));
  return { audioId: measure.levelsId, gains: whole.map((db, band) => powerOf(db - part[band]) * sides) };
}

/** The tracks as they feed a group or a return, whatever is soloed: gains to its input, in place of the ears. Sums on the way count as they add up. */
export function tracksInto(whole: Song, busId: string, measures: StripMeasures): MixTrack[] {
  const open = <T extends Track | Bus>(strip: T): T => (strip.soloed ? { ...strip, soloed: false } : strip);
  const song = busId === MASTER_ID ? whole : { ...whole, tracks: whole.tracks.map(open), buses: whole.buses.map(open) };
  const all = { ...gainsOf(song, { measures }), addsUp: true };
  all.onward.set(MASTER_ID, SILENT);
  all.onward.set(busId, new Float64Array(SPECTRUM_BANDS).fill(1));
  return song.tracks.map((track) => {
    const measured = measuredLevels(all, track);
    const gains = through(all, track, measured?.gains ?? chainGains(all, track));
    return { id: track.id, audioId: measured?.audioId ?? track.audioId, channels: track.channels, gains };
  });
}
