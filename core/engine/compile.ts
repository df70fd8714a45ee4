import { designBand, designEqualizer, type EqualizerSettings, type Section } from '../filters';
import {
  MASTER_ID,
  stripChannels,
  type BandChannel,
  type BandSettings,
  type Bus,
  type Chain,
  type Equalizer,
  type Send,
  type Song,
  type Track,
} from '../song';
import type { KeyedSection } from './cascade';
import { toStateVariable } from './state-variable';

/** An equalizer of linear phase as the engine runs it: by a kernel that is designed elsewhere, since that takes too long for the audio thread. */
export interface CompiledConvolution {
  /** Keeps its identity while its kernel changes. */
  key: string;
  /** Names the kernel: the same for the same sound. */
  kernelId: string;
}

/** What a kernel is designed from. */
export interface KernelRequest extends CompiledConvolution {
  equalizer: EqualizerSettings;
  channels: 1 | 2;
  rateHz: number;
}

/** A part of a chain: sections of equalizers of minimum phase, or one equalizer of linear phase. */
export type CompiledStage =
  ({ kind: 'convolution' } & CompiledConvolution) | { kind: 'cascade'; sections: KeyedSection[] };

/** A chain as the engine runs it, in its own order. */
export interface CompiledChain {
  stages: CompiledStage[];
  /** True to hear what comes in, as late as what would go out. */
  bypassed: boolean;
  /** Sections that are heard but are no part of the song, bypassed or not: a probe, an earshot. */
  monitoring: KeyedSection[];
}

export interface CompiledSend {
  /** Number of the bus, or −1 for the master. */
  bus: number;
  /** 1 when it is heard, 0 when its strip is muted, or when a solo leaves it out. */
  audible: number;
  gain: number;
  beforeFader: boolean;
}

/** A track or bus as the engine runs it: linear gains, destinations by number. */
export interface CompiledStrip {
  id: string;
  /** Fader, polarity included. */
  gain: number;
  /** Position law applied: what reaches left and right of a mono signal, or each side of a stereo one. */
  leftGain: number;
  rightGain: number;
  /** 1 when its output is heard, 0 when muted or left out by a solo. */
  audible: number;
  /** Number of the bus in `buses`, or −1 for the master. */
  output: number;
  sends: CompiledSend[];
  chain: CompiledChain;
}

export interface CompiledTrack extends CompiledStrip {
  audioId: string;
  channels: 1 | 2;
}

/** A song as a graph of processors: plain data that can be posted to the audio thread. Buses come before those they feed. */
export interface CompiledSong {
  rateHz: number;
  lengthFrames: number;
  tracks: CompiledTrack[];
  buses: CompiledStrip[];
  masterGain: number;
  masterChain: CompiledChain;
  /** True to hear left and right summed. */
  mono: boolean;
}

export const fromDb = (db: number) => 10 ** (db / 20);

/** Sections with a name each, so that the engine can ease one set into the next. What kind of filter they are part of is in their names: another kind is no move of this one. */
function keyed(sections: readonly Section[], key: string, channel: BandChannel): KeyedSection[] {
  return sections.map((section, i) => ({ key: `${key}/${channel}/${i}`, channel, ...toStateVariable(section) }));
}

/** What a band can't be eased out of. */
const kindOf = ({ type, family, order }: BandSettings) =>
  type === 'high-pass' || type === 'low-pass' ? `${type}-${family}-${order}` : type;

/** True when a band has something to act on in a signal of so many channels. */
export const canAct = (band: Pick<BandSettings, 'channel'>, channels: 1 | 2) =>
  channels === 2 || band.channel === 'stereo';

/**
 * The sections of an equalizer as the engine runs them.
 * @param name comes before the names of all sections; a band without an id of its own goes by its place
 */
export function equalizerSections(
  { bands, outputGainDb }: { bands: readonly (BandSettings & { id?: string })[]; outputGainDb: number },
  rateHz: number,
  channels: 1 | 2,
  name = '',
): KeyedSection[] {
  return [
    ...keyed(designEqualizer({ bands: [], outputGainDb }, rateHz), `${name}/output`, 'stereo'),
    ...bands.flatMap((band, i) =>
      canAct(band, channels)
        ? keyed(designBand(band, rateHz), `${name}/${band.id ?? i}/${kindOf(band)}`, band.channel)
        : [],
    ),
  ];
}

/** What the kernel of an equalizer of linear phase is designed from. One that is off is still late, so that nothing jumps when it is switched. */
function kernelRequest(equalizer: Equalizer, rateHz: number, channels: 1 | 2): KernelRequest {
  const bands = equalizer.enabled ? equalizer.bands.filter((band) => band.enabled && canAct(band, channels)) : [];
  const outputGainDb = equalizer.enabled ? equalizer.outputGainDb : 0;
  const sound = bands.map(({ id: _, letter: __, note: ___, limits: ____, ...settings }) => settings);
  return {
    key: equalizer.id,
    kernelId: JSON.stringify([sound, outputGainDb, rateHz, channels]),
    equalizer: { bands, outputGainDb },
    channels,
    rateHz,
  };
}

/** Every kernel that a song needs. */
export function kernelRequests(song: Song): KernelRequest[] {
  return [...song.tracks, ...song.buses, song.master].flatMap((strip) =>
    strip.chain
      .filter((equalizer) => equalizer.phase === 'linear')
      .map((equalizer) => kernelRequest(equalizer, song.rateHz, stripChannels(strip))),
  );
}

const compiledChains = new WeakMap<Chain, { rateHz: number; channels: 1 | 2; compiled: CompiledChain }>();

/** A chain for the engine. Chains never change in place, so one that was compiled before is not compiled again. */
function compileChain(chain: Chain, rateHz: number, channels: 1 | 2): CompiledChain {
  const known = compiledChains.get(chain);
  if (known?.rateHz === rateHz && known.channels === channels) return known.compiled;
  const compiled: CompiledChain = { bypassed: false, monitoring: [], stages: [] };
  for (const equalizer of chain) {
    if (equalizer.phase === 'linear') {
      const { key, kernelId } = kernelRequest(equalizer, rateHz, channels);
      compiled.stages.push({ kind: 'convolution', key, kernelId });
    } else if (equalizer.enabled) {
      const sections = equalizerSections(equalizer, rateHz, channels, equalizer.id);
      const last = compiled.stages.at(-1);
      if (last?.kind === 'cascade') last.sections.push(...sections);
      else compiled.stages.push({ kind: 'cascade', sections });
    }
  }
  compiledChains.set(chain, { rateHz, channels, compiled });
  return compiled;
}

/**
 * The position law: constant power, sine and cosine. A mono signal in the middle reaches each side at −3.01 dB and a side
 * alone at 0 dB; a stereo signal in the middle is left as it is, and at an end its near side is at +3.01 dB.
 * @param pan −1 left to +1 right
 */
export function panGains(pan: number, channels: 1 | 2): { leftGain: number; rightGain: number } {
  const towards = (side: number) => {
    const gain = Math.cos(((side + 1) * Math.PI) / 4);
    return gain < 1e-15 ? 0 : gain / (channels === 1 ? 1 : Math.SQRT1_2);
  };
  return { leftGain: towards(pan), rightGain: towards(-pan) };
}

/** Buses in the order in which they must run: each before every bus that it feeds. */
function inRunningOrder(buses: readonly Bus[]): Bus[] {
  const ordered: Bus[] = [];
  const visit = (bus: Bus, path: readonly string[]) => {
    if (ordered.includes(bus) || path.includes(bus.id)) return;
    const feeders = buses.filter((other) =>
      [other.outputId, ...other.sends.map((send) => send.busId)].includes(bus.id),
    );
    feeders.forEach((feeder) => visit(feeder, [...path, bus.id]));
    ordered.push(bus);
  };
  buses.forEach((bus) => visit(bus, []));
  return ordered;
}

interface Audibility {
  output: (strip: Track | Bus) => number;
  send: (strip: Track | Bus, send: Send) => number;
}

/**
 * Who is heard. A solo silences every track that is neither soloed itself nor led through a soloed bus; of one that is silenced so, a send
 * to a soloed bus is heard all the same. Buses sound when anything soloed feeds them. Mute wins over solo.
 */
function audibility(song: Song): Audibility {
  const leadsThroughSolo = (busId: string): boolean => {
    const bus = song.buses.find(({ id }) => id === busId);
    return bus !== undefined && (bus.soloed || leadsThroughSolo(bus.outputId));
  };
  const anySolo = [...song.tracks, ...song.buses].some((strip) => strip.soloed);
  const isWhole = (strip: Track | Bus) =>
    !anySolo || !('audioId' in strip) || strip.soloed || leadsThroughSolo(strip.outputId);
  return {
    output: (strip) => Number(!strip.muted && isWhole(strip)),
    send: (strip, { busId }) => Number(!strip.muted && (isWhole(strip) || leadsThroughSolo(busId))),
  };
}

/** Strips that were compiled before, with all that they depend on beside themselves: one that does not change stays the same object. */
const compiledStrips = new WeakMap<Track | Bus, { surroundings: string; compiled: CompiledStrip }>();

const compiledSongs = new WeakMap<Song, CompiledSong>();

/** A song for the engine. Songs never change in place, so one that was compiled before is not compiled again. @param song valid: see `checkRouting` */
export function compileSong(song: Song): CompiledSong {
  const known = compiledSongs.get(song);
  if (known) return known;
  const compiled = compile(song);
  compiledSongs.set(song, compiled);
  return compiled;
}

function compile(song: Song): CompiledSong {
  const buses = inRunningOrder(song.buses);
  const numberOf = (busId: string) => (busId === MASTER_ID ? -1 : buses.findIndex((bus) => bus.id === busId));
  const audible = audibility(song);
  const strip = <T extends object>(source: Track | Bus, channels: 1 | 2, more: T): CompiledStrip & T => {
    const output = numberOf(source.outputId);
    const sends = source.sends.map((send) => ({
      bus: numberOf(send.busId),
      gain: fromDb(send.gainDb),
      audible: audible.send(source, send),
      beforeFader: send.tap === 'before-fader',
    }));
    const surroundings = [
      song.rateHz,
      audible.output(source),
      output,
      ...sends.flatMap(({ bus, audible }) => [bus, audible]),
    ].join();
    const known = compiledStrips.get(source);
    if (known?.surroundings === surroundings) return known.compiled as CompiledStrip & T;
    const compiled = {
      id: source.id,
      gain: fromDb(source.gainDb) * (source.polarityInverted ? -1 : 1),
      ...panGains(source.pan, channels),
      audible: audible.output(source),
      output,
      sends,
      chain: compileChain(source.chain, song.rateHz, channels),
      ...more,
    };
    compiledStrips.set(source, { surroundings, compiled });
    return compiled;
  };
  return {
    rateHz: song.rateHz,
    lengthFrames: song.tracks.reduce((longest, track) => Math.max(longest, track.lengthFrames), 0),
    tracks: song.tracks.map((track) => {
      const { audioId, channels } = track;
      return strip(track, channels, { audioId, channels });
    }),
    buses: buses.map((bus) => strip(bus, 2, {})),
    masterGain: fromDb(song.master.gainDb),
    masterChain: compileChain(song.master.chain, song.rateHz, 2),
    mono: false,
  };
}

/** True where anything of a strip is heard, by its output or by a send. */
export const isHeard = ({ audible, sends }: Pick<CompiledTrack, 'audible' | 'sends'>): boolean =>
  audible > 0 || sends.some((send) => send.audible > 0);
