import { designBand, designEqualizer, gainSection, type EqualizerSettings, type Section } from '../filters';
import type { ProcessorSettings } from '../processors';
import {
  type ChainProcessor,
  BAND_DEFAULTS,
  channelsInto,
  equalizersOf,
  GAIN_RANGE_DB,
  GIVES_WAY,
  givesWay,
  keyOf,
  opensSides,
  OWN_KEY,
  type Band,
  type BandChannel,
  type BandSettings,
  type Bus,
  type Chain,
  type Equalizer,
  type GivesWay,
  type Key,
  type Song,
  type Track,
} from '../song';
import { passagesByStrip } from '../passages';
import type { KeyedSection } from './cascade';
import type { CompiledKey, ProcessorStagePlan } from './processor-stage';
import { stripsOverTime } from './pieces';
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

/** True for a chain that makes two different sides of one. */
export const chainOpens = ({ stages }: CompiledChain): boolean =>
  stages.some((stage) => stage.kind === 'processor' && opensSides(stage.settings));

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
    kernelId: JSON.stringify([equalizer.id, sound, outputGainDb, rateHz, channels]),
    equalizer: { bands, outputGainDb },
    channels,
    rateHz,
  };
}

const isLinear = (processor: ChainProcessor) => processor.kind === 'equalizer' && processor.phase === 'linear';

/** Every kernel that a song needs, those of its passages among them; what holds longest first. */
export function kernelRequests(song: Song): KernelRequest[] {
  const passages = passagesByStrip(song.passages);
  return [...song.tracks, ...song.buses, song.master].flatMap((strip) => {
    const own = passages.get(strip.id) ?? [];
    // Most strips need none: this is asked of all of them at every move of a drag.
    if (own.length === 0 && !strip.chain.some(isLinear)) return [];
    const all = stripsOverTime(strip, own, song.rateHz).flatMap(({ chain }) =>
      equalizersOf(chain)
        .filter(isLinear)
        .map((equalizer) => kernelRequest(equalizer, song.rateHz, channelsInto({ ...strip, chain }, equalizer.id))),
    );
    return [...new Map(all.map((request) => [request.kernelId, request])).values()];
  });
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
function equalizerStages(equalizer: Equalizer, rateHz: number, channels: 1 | 2, keepsEmpty: boolean): CompiledStage[] {
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
  ].filter((stage) => keepsEmpty || stage.kind !== 'cascade' || stage.sections.length > 0);
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

const compiledChains = new WeakMap<
  Chain,
  { rateHz: number; channels: 1 | 2; keepsEmpty: boolean; compiled: CompiledChain }
>();

/**
 * A chain for the engine. Chains never change in place, so one that was compiled before is not compiled again.
 * @param channels how many go into it
 * @param keepsEmpty true where every equalizer is a stage, whether anything of it is on or not: what passages switch has a place then
 */
export function compileChain(chain: Chain, rateHz: number, channels: 1 | 2, keepsEmpty = false): CompiledChain {
  const known = compiledChains.get(chain);
  if (known?.rateHz === rateHz && known.channels === channels && known.keepsEmpty === keepsEmpty) return known.compiled;
  const compiled: CompiledChain = { bypassed: false, monitoring: [], stages: [] };
  let sides = channels;
  for (const processor of chain) {
    if (opensSides(processor)) sides = 2;
    if (processor.kind !== 'equalizer') compiled.stages.push(compileProcessor(processor, rateHz));
    else for (const stage of equalizerStages(processor, rateHz, sides, keepsEmpty)) append(compiled.stages, stage);
  }
  compiledChains.set(chain, { rateHz, channels, keepsEmpty, compiled });
  return compiled;
}

/** A chain with the levels of the strip's middle and sides behind it. */
export function withSides(
  chain: CompiledChain,
  { midDb, sideDb }: Track | Bus,
  channels: 1 | 2,
  keepsEmpty = false,
): CompiledChain {
  const isEven = midDb === 0 && sideDb === 0;
  if (channels === 1 || (isEven && !keepsEmpty)) return chain;
  const stages = chain.stages.map((stage) =>
    stage.kind === 'cascade' ? { ...stage, sections: [...stage.sections] } : stage,
  );
  const level = (channel: 'mid' | 'side', db: number) => keyed([gainSection(db)], 'level', channel);
  append(stages, { kind: 'cascade', sections: isEven ? [] : [...level('mid', midDb), ...level('side', sideDb)] });
  return { ...chain, stages };
}
