import { designBand, designEqualizer, gainSection, type EqualizerSettings, type Section } from '../filters';
import type { ProcessorSettings } from '../processors';
import {
  BAND_DEFAULTS,
  equalizersOf,
  GAIN_RANGE_DB,
  GIVES_WAY,
  givesWay,
  keyOf,
  keyStripsOf,
  MASTER_ID,
  OWN_KEY,
  songLengthFrames,
  stripChannels,
  type Band,
  type BandChannel,
  type BandSettings,
  type Bus,
  type Chain,
  type Equalizer,
  type GivesWay,
  type Key,
  type Send,
  type Song,
  type Track,
} from '../song';
import type { KeyedSection } from './cascade';
import type { CompiledKey, ProcessorStagePlan } from './processor-stage';
import { toStateVariable, type StateVariable } from './state-variable';

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

/** A processor that is no equalizer. */
export interface CompiledProcessor extends Omit<ProcessorStagePlan, 'keyWait'> {
  id: string;
}

/** A part of a chain: sections of equalizers of minimum phase, one equalizer of linear phase, or another processor. */
export type CompiledStage =
  | ({ kind: 'convolution' } & CompiledConvolution)
  | { kind: 'cascade'; sections: KeyedSection[] }
  | ({ kind: 'processor' } & CompiledProcessor);

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
  /** True where another strip's processors listen to it. */
  isKey: boolean;
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
  const bands = equalizer.enabled
    ? equalizer.bands.filter((band) => band.enabled && canAct(band, channels) && !givesWay(band))
    : [];
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
    equalizersOf(strip.chain)
      .filter((equalizer) => equalizer.phase === 'linear')
      .map((equalizer) => kernelRequest(equalizer, song.rateHz, stripChannels(strip))),
  );
}

/** Both ends of the range of a key that a processor listens to: 24 dB an octave. */
function keyBands({ lowHz, highHz }: Key): BandSettings[] {
  const end = { ...BAND_DEFAULTS, order: 4 };
  return [
    ...(lowHz === null ? [] : [{ ...end, type: 'high-pass' as const, frequencyHz: lowHz }]),
    ...(highHz === null ? [] : [{ ...end, type: 'low-pass' as const, frequencyHz: highHz }]),
  ];
}

function compileProcessor(settings: ProcessorSettings, rateHz: number): CompiledStage {
  const key = keyOf(settings);
  return {
    kind: 'processor',
    id: settings.id,
    settings,
    hearsKey: false,
    key: key ? compileKey(key, rateHz) : null,
  };
}

const compileKey = (key: Key, rateHz: number): CompiledKey => ({
  stripId: key.stripId === OWN_KEY ? null : key.stripId,
  sections: equalizerSections({ bands: keyBands(key), outputGainDb: 0 }, rateHz, 1, 'key'),
});

/** Neighbours that are nothing but sections run as one cascade. */
function append(stages: CompiledStage[], stage: CompiledStage): void {
  const last = stages.at(-1);
  if (stage.kind === 'cascade' && last?.kind === 'cascade') last.sections.push(...stage.sections);
  else stages.push(stage.kind === 'cascade' ? { ...stage, sections: [...stage.sections] } : stage);
}

/** The bands of an equalizer in their order; one that gives way is a stage of its own. Where the phase is linear these come last. */
function equalizerStages(equalizer: Equalizer, rateHz: number, channels: 1 | 2): CompiledStage[] {
  const giving = (band: Band) =>
    givesWay(band) && canAct(band, channels) ? [compileGivingBand(band, equalizer.enabled, rateHz)] : [];
  if (equalizer.phase === 'linear') {
    const { key, kernelId } = kernelRequest(equalizer, rateHz, channels);
    return [{ kind: 'convolution', key, kernelId }, ...equalizer.bands.flatMap(giving)];
  }
  const sections = (bands: readonly Band[], outputGainDb: number): CompiledStage => ({
    kind: 'cascade',
    sections: equalizer.enabled ? equalizerSections({ bands, outputGainDb }, rateHz, channels, equalizer.id) : [],
  });
  return [
    sections([], equalizer.outputGainDb),
    ...equalizer.bands.flatMap((band) => (givesWay(band) ? giving(band) : [sections([band], 0)])),
  ].filter((stage) => stage.kind !== 'cascade' || stage.sections.length > 0);
}

/** Steps of gain between the rest of a band and its farthest place, dB; between them coefficients are mixed. */
const TABLE_STEP_DB = 3;
const givingTables = new WeakMap<Band, { rateHz: number; table: StateVariable[] }>();

/** The section of a band at its gains from rest to its farthest place. */
function givingTable(band: Band & { givesWay: GivesWay }, rateHz: number): StateVariable[] {
  const known = givingTables.get(band);
  if (known?.rateHz === rateHz) return known.table;
  const { amountDb } = band.givesWay;
  // Always as many, so that an amount that is dragged is a move.
  const steps = Math.ceil(GIVES_WAY.amountDb.max / TABLE_STEP_DB);
  const table = Array.from({ length: steps + 1 }, (_, i) => {
    const gainDb = Math.min(GAIN_RANGE_DB.max, Math.max(GAIN_RANGE_DB.min, band.gainDb + (amountDb * i) / steps));
    const [section] = designBand({ ...band, enabled: true, gainDb }, rateHz);
    return toStateVariable(section);
  });
  givingTables.set(band, { rateHz, table });
  return table;
}

function compileGivingBand(band: Band & { givesWay: GivesWay }, isOn: boolean, rateHz: number): CompiledStage {
  const { key, ...settings } = band.givesWay;
  const { id, channel } = band;
  return {
    kind: 'processor',
    id,
    settings: {
      kind: 'giving-band',
      id,
      channel,
      enabled: isOn && band.enabled,
      table: givingTable(band, rateHz),
      ...settings,
    },
    hearsKey: false,
    key: compileKey(key, rateHz),
  };
}

const compiledChains = new WeakMap<Chain, { rateHz: number; channels: 1 | 2; compiled: CompiledChain }>();

/** A chain for the engine. Chains never change in place, so one that was compiled before is not compiled again. */
function compileChain(chain: Chain, rateHz: number, channels: 1 | 2): CompiledChain {
  const known = compiledChains.get(chain);
  if (known?.rateHz === rateHz && known.channels === channels) return known.compiled;
  const compiled: CompiledChain = { bypassed: false, monitoring: [], stages: [] };
  for (const processor of chain) {
    if (processor.kind !== 'equalizer') compiled.stages.push(compileProcessor(processor, rateHz));
    else for (const stage of equalizerStages(processor, rateHz, channels)) append(compiled.stages, stage);
  }
  compiledChains.set(chain, { rateHz, channels, compiled });
  return compiled;
}

/** A chain with the levels of the strip's middle and sides behind it. */
function withSides(chain: CompiledChain, { midDb, sideDb }: Track | Bus, channels: 1 | 2): CompiledChain {
  if (channels === 1 || (midDb === 0 && sideDb === 0)) return chain;
  const stages = chain.stages.map((stage) =>
    stage.kind === 'cascade' ? { ...stage, sections: [...stage.sections] } : stage,
  );
  const level = (channel: 'mid' | 'side', db: number) => keyed([gainSection(db)], 'level', channel);
  append(stages, { kind: 'cascade', sections: [...level('mid', midDb), ...level('side', sideDb)] });
  return { ...chain, stages };
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
  const ordered = inRunningOrder(song);
  const buses = ordered.filter((strip): strip is Bus => !('audioId' in strip));
  const keys = keyStrips(song);
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
      keys.has(source.id),
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
      chain: withSides(compileChain(source.chain, song.rateHz, channels), source, channels),
      isKey: keys.has(source.id),
      ...more,
    };
    compiledStrips.set(source, { surroundings, compiled });
    return compiled;
  };
  return {
    rateHz: song.rateHz,
    lengthFrames: songLengthFrames(song),
    tracks: song.tracks.map((track) => {
      const { audioId, channels, delayMs } = track;
      return strip(track, channels, { audioId, channels, delayFrames: (delayMs * song.rateHz) / 1000 });
    }),
    buses: buses.map((bus) => strip(bus, 2, {})),
    steps: ordered.map((source) =>
      'audioId' in source
        ? { kind: 'track', index: song.tracks.indexOf(source) }
        : { kind: 'bus', index: buses.indexOf(source) },
    ),
    masterGain: fromDb(song.master.gainDb),
    masterChain: compileChain(song.master.chain, song.rateHz, 2),
    mono: false,
  };
}

/** True where anything of a strip is heard, by its output, by a send, or by what listens to it. */
export const isHeard = ({ audible, sends, isKey }: Pick<CompiledTrack, 'audible' | 'sends' | 'isKey'>): boolean =>
  audible > 0 || isKey || sends.some((send) => send.audible > 0);

/** The numbers of the tracks that run in their order with the buses. */
export const boundTracks = ({ steps }: CompiledSong): number[] =>
  steps.flatMap(({ kind, index }) => (kind === 'track' ? [index] : []));
