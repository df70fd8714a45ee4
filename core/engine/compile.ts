import {
  channelsBehind,
  keyStripsOf,
  MASTER_ID,
  songLengthFrames,
  type Bus,
  type Chain,
  type Send,
  type Song,
  type Strip,
  type Track,
} from '../song';
import { passagesByStrip, type StripPassage } from '../passages';
import { compileChain, withSides, type CompiledChain } from './compile-chain';
import { compileTimeline, type Timeline } from './timeline';

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
  /** True where another strip's processors listen to it. */
  isKey: boolean;
  /** What passages make of it over the song; null where none does. */
  timeline: Timeline | null;
}

/** What runs after the tracks that nobody waits for, in its order. */
export interface CompiledStep {
  kind: 'track' | 'bus';
  /** In `tracks` or `buses`. */
  index: number;
}

export interface CompiledTrack extends CompiledStrip {
  audioId: string;
  channels: 1 | 2;
  /** How much later than recorded it sounds, frames; fractions, and below 0, too. */
  delayFrames: number;
}

/** A song as a graph of processors: plain data that can be posted to the audio thread. Buses come before those they feed. */
export interface CompiledSong {
  rateHz: number;
  lengthFrames: number;
  tracks: CompiledTrack[];
  buses: CompiledStrip[];
  /** All buses, and the tracks that listen to another strip or are listened to: each after what it needs. */
  steps: CompiledStep[];
  masterGain: number;
  masterChain: CompiledChain;
  masterTimeline: Timeline | null;
  /** True to hear left and right summed. */
  mono: boolean;
  /** What is heard of the left and of the right side: 0 to 1. */
  ears: readonly [left: number, right: number];
}

export const fromDb = (db: number) => 10 ** (db / 20);

/** Both sides are heard. */
export const BOTH_EARS: CompiledSong['ears'] = [1, 1];

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

/** The strips that others listen to. */
const keyStrips = (song: Song) => new Set([...song.tracks, ...song.buses, song.master].flatMap(keyStripsOf));

/**
 * What has to run in an order, in that order: buses, tracks that listen to another strip, and those that are listened to. Each comes before
 * every bus that it feeds, and before all that listen to it.
 */
function inRunningOrder(song: Song): (Track | Bus)[] {
  const keys = keyStrips(song);
  const bound = song.tracks.filter((track) => keys.has(track.id) || keyStripsOf(track).length > 0);
  const strips = [...song.buses, ...bound];
  const ordered: (Track | Bus)[] = [];
  const visit = (strip: Track | Bus, path: readonly string[]) => {
    if (ordered.includes(strip) || path.includes(strip.id)) return;
    const listensTo = keyStripsOf(strip);
    const needed = strips.filter(
      (other) =>
        listensTo.includes(other.id) || [other.outputId, ...other.sends.map((send) => send.busId)].includes(strip.id),
    );
    needed.forEach((other) => visit(other, [...path, strip.id]));
    ordered.push(strip);
  };
  strips.forEach((strip) => visit(strip, []));
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

/** A strip as it was compiled, with all that this depends on beside the strip itself. */
interface Compiled {
  surroundings: string;
  passages: readonly StripPassage[];
  compiled: CompiledStrip;
}
/** Strips that were compiled before: one that does not change stays the same object, with its passages and without. */
const compiledStrips = new WeakMap<Track | Bus, Compiled[]>();
const MOST_COMPILED = 4;
const compiledMasters = new WeakMap<
  Song['master'],
  { rateHz: number; passages: readonly StripPassage[]; timeline: Timeline | null }
>();

const compiledSongs = new WeakMap<Song, CompiledSong>();

/** The chains of a song, each with what passages make of it. */
export const chainsOverTime = ({ tracks, buses, masterChain, masterTimeline }: CompiledSong): ChainOverTime[] => [
  ...tracks,
  ...buses,
  { chain: masterChain, timeline: masterTimeline },
];

type ChainOverTime = Pick<CompiledStrip, 'chain' | 'timeline'>;

/** All that a chain is over the song. */
export const statesOf = ({ chain, timeline }: ChainOverTime): CompiledChain[] => [
  chain,
  ...(timeline ?? []).map(({ start }) => start.chain),
];

/** A song for the engine. Songs never change in place, so one that was compiled before is not compiled again. @param song valid: see `checkRouting` */
export function compileSong(song: Song): CompiledSong {
  const known = compiledSongs.get(song);
  if (known) return known;
  const compiled = compile(song);
  compiledSongs.set(song, compiled);
  return compiled;
}

const NONE: readonly StripPassage[] = [];
const samePassages = (some: readonly StripPassage[], others: readonly StripPassage[]) =>
  some.length === others.length && some.every(({ passage }, i) => passage === others[i].passage);

function compileMaster({ master, rateHz }: Song, passages: readonly StripPassage[]): Timeline | null {
  const known = compiledMasters.get(master);
  if (known && known.rateHz === rateHz && samePassages(known.passages, passages)) return known.timeline;
  const stateOf = ({ gainDb }: Pick<Strip, 'gainDb'>, chain: Chain) => ({
    gain: fromDb(gainDb),
    leftGain: 1,
    rightGain: 1,
    audible: 1,
    sends: [],
    chain: compileChain(chain, rateHz, 2, true),
  });
  const timeline =
    passages.length === 0 ? null : compileTimeline(master, passages, rateHz, stateOf(master, master.chain), stateOf);
  compiledMasters.set(master, { rateHz, passages, timeline });
  return timeline;
}

function compile(song: Song): CompiledSong {
  const { rateHz } = song;
  const ordered = inRunningOrder(song);
  const buses = ordered.filter((strip): strip is Bus => !('audioId' in strip));
  const keys = keyStrips(song);
  const numberOf = (busId: string) => (busId === MASTER_ID ? -1 : buses.findIndex((bus) => bus.id === busId));
  const audible = audibility(song);
  const passages = passagesByStrip(song.passages);
  const stateOf = (source: Track | Bus, channels: 1 | 2, chain: Chain, overTime: boolean) => ({
    gain: fromDb(source.gainDb) * (source.polarityInverted ? -1 : 1),
    ...panGains(source.pan, channels),
    audible: audible.output(source),
    sends: source.sends.map((send) => ({
      bus: numberOf(send.busId),
      gain: fromDb(send.gainDb),
      audible: send.enabled ? audible.send(source, send) : 0,
      beforeFader: send.tap === 'before-fader',
    })),
    chain: withSides(
      compileChain(chain, rateHz, channels, overTime),
      source,
      channelsBehind(chain, channels),
      overTime,
    ),
  });
  const strip = <T extends object>(source: Track | Bus, channels: 1 | 2, more: T): CompiledStrip & T => {
    const output = numberOf(source.outputId);
    const sends = source.sends.flatMap((send) => [numberOf(send.busId), audible.send(source, send)]);
    const surroundings = [rateHz, audible.output(source), output, keys.has(source.id), ...sends].join();
    const over = passages.get(source.id) ?? NONE;
    const kept = compiledStrips.get(source) ?? [];
    const known = kept.find(
      (compiled) => compiled.surroundings === surroundings && samePassages(compiled.passages, over),
    );
    if (known) return known.compiled as CompiledStrip & T;
    const overTime = over.length > 0;
    const state = stateOf(source, channels, source.chain, overTime);
    const timeline = overTime
      ? compileTimeline(source, over, rateHz, state, (made, chain) =>
          stateOf(made as Track | Bus, channels, chain, true),
        )
      : null;
    const compiled = { id: source.id, output, isKey: keys.has(source.id), timeline, ...state, ...more };
    compiledStrips.set(source, [{ surroundings, passages: over, compiled }, ...kept].slice(0, MOST_COMPILED));
    return compiled;
  };
  return {
    rateHz,
    lengthFrames: songLengthFrames(song),
    tracks: song.tracks.map((track) => {
      const { audioId, channels, delayMs } = track;
      return strip(track, channels, { audioId, channels, delayFrames: (delayMs * rateHz) / 1000 });
    }),
    buses: buses.map((bus) => strip(bus, 2, {})),
    steps: ordered.map((source) =>
      'audioId' in source
        ? { kind: 'track', index: song.tracks.indexOf(source) }
        : { kind: 'bus', index: buses.indexOf(source) },
    ),
    masterGain: fromDb(song.master.gainDb),
    masterChain: compileChain(song.master.chain, rateHz, 2, passages.has(MASTER_ID)),
    masterTimeline: compileMaster(song, passages.get(MASTER_ID) ?? NONE),
    mono: false,
    ears: BOTH_EARS,
  };
}

/** True where anything of a strip is heard at any time, by its output, by a send, or by what listens to it. */
export function isHeard({
  audible,
  sends,
  isKey,
  timeline,
}: Pick<CompiledTrack, 'audible' | 'sends' | 'isKey' | 'timeline'>): boolean {
  const isOpen = (state: Pick<CompiledTrack, 'audible' | 'sends'>) =>
    state.audible > 0 || state.sends.some((send) => send.audible > 0);
  return isKey || isOpen({ audible, sends }) || (timeline?.some(({ start }) => isOpen(start)) ?? false);
}

/** The numbers of the tracks that run in their order with the buses. */
export const boundTracks = ({ steps }: CompiledSong): number[] =>
  steps.flatMap(({ kind, index }) => (kind === 'track' ? [index] : []));
