import {
  equalizersOf,
  switchEdit,
  BAND_DEFAULTS,
  MASTER_ID,
  applyEdit,
  findStrip,
  type BandChannel,
  type BandSettings,
  type Song,
} from '../song';
import { placeOf, type PlaceId } from '../elsewhere';
import type { KeyedSection } from './cascade';
import { BOTH_EARS, compileSong, fromDb, type CompiledSong, type CompiledStrip } from './compile';
import { chainOpens, equalizerSections, type CompiledChain } from './compile-chain';
import type { Timeline, TimelineState } from './timeline';

/** A narrow boost that is swept over a strip to find what rings. */
export interface Probe {
  stripId: string;
  frequencyHz: number;
  gainDb: number;
  q: number;
  channel: BandChannel;
}

/** A range that alone is heard: of a track, of a bus, or of the whole mix. */
export interface Earshot {
  /** The master's id for the mix. */
  stripId: string;
  lowHz: number;
  highHz: number;
}

/** What can be taken away to hear what it does. */
export type Scope =
  | { kind: 'mix' }
  | { kind: 'strip'; stripId: string }
  | { kind: 'processor'; stripId: string; processorId: string }
  | { kind: 'band'; stripId: string; bandId: string }
  | { kind: 'passage'; passageId: string };

/** How a song is listened to. Nothing of it is part of the song, and nothing of it is rendered. */
export interface Hearing {
  /** What is bypassed: "before". */
  without: Scope | null;
  probe: Probe | null;
  earshot: Earshot | null;
  /** The processor whose key is heard in place of everything. */
  key: { stripId: string; processorId: string } | null;
  mono: boolean;
  /** Where the mix is heard; null for here. */
  elsewhere: PlaceId | null;
  /** Gains that match loudness, dB, by the strip they act on; the master's acts on the whole mix. */
  trimsDb: Readonly<Record<string, number>>;
}

export const PLAIN_HEARING: Hearing = {
  without: null,
  probe: null,
  earshot: null,
  key: null,
  mono: false,
  elsewhere: null,
  trimsDb: {},
};

/** Both sides of an earshot: elliptic, order 8, at most 0.2 dB of ripple inside, 60 dB down right beside it. */
const EARSHOT_SIDE = { ...BAND_DEFAULTS, family: 'elliptic', order: 8, rippleDb: 0.2, stopbandDb: 60 } as const;

/** The two filters of an earshot. */
export function earshotBands({ lowHz, highHz }: Pick<Earshot, 'lowHz' | 'highHz'>): BandSettings[] {
  return [
    { ...EARSHOT_SIDE, type: 'high-pass', frequencyHz: lowHz },
    { ...EARSHOT_SIDE, type: 'low-pass', frequencyHz: highHz },
  ];
}

/** The song in which a strip alone is heard, whatever is muted or soloed. */
function aloneIn(song: Song, stripId: string): Song {
  const through = new Set<string>();
  for (let strip = findStrip(song, stripId); strip && 'outputId' in strip; strip = findStrip(song, strip.outputId))
    through.add(strip.id);
  const heard = <T extends { id: string; muted: boolean; soloed: boolean }>(source: T): T => ({
    ...source,
    soloed: source.id === stripId,
    muted: source.muted && !through.has(source.id),
  });
  return { ...song, tracks: song.tracks.map(heard), buses: song.buses.map(heard) };
}

/** The song without a band; the song itself where the band is gone or off. */
function withoutBand(song: Song, stripId: string, bandId: string): Song {
  const equalizer = equalizersOf(findStrip(song, stripId)?.chain ?? []).find(({ bands }) =>
    bands.some(({ id }) => id === bandId),
  );
  if (!equalizer?.bands.find(({ id }) => id === bandId)?.enabled) return song;
  return applyEdit(song, {
    kind: 'band.set',
    stripId,
    equalizerId: equalizer.id,
    bandId,
    changes: { enabled: false },
  });
}

/** The song without a processor; the song itself where it is gone or off. */
function withoutProcessor(song: Song, stripId: string, processorId: string): Song {
  const processor = findStrip(song, stripId)?.chain.find(({ id }) => id === processorId);
  return processor?.enabled ? applyEdit(song, switchEdit(stripId, processor, false)) : song;
}

/** The song without a passage. */
const withoutPassage = (song: Song, passageId: string): Song => ({
  ...song,
  passages: song.passages.filter(({ id }) => id !== passageId),
});

function withoutScope(song: Song, without: Scope | null): Song {
  if (without?.kind === 'passage') return withoutPassage(song, without.passageId);
  if (without?.kind === 'band') return withoutBand(song, without.stripId, without.bandId);
  return without?.kind === 'processor' ? withoutProcessor(song, without.stripId, without.processorId) : song;
}

/** The song whose settings are heard; probes, earshot, bypasses and trims come on top of it in {@link compileHearing}. */
export function heardSong(song: Song, { without, earshot, key }: Hearing): Song {
  const heard = withoutScope(song, without);
  if (key && key.stripId !== MASTER_ID) return aloneIn(heard, key.stripId);
  return earshot && earshot.stripId !== MASTER_ID ? aloneIn(heard, earshot.stripId) : heard;
}

const isBypassed = ({ without }: Hearing, stripId: string) =>
  without?.kind === 'mix' || (without?.kind === 'strip' && without.stripId === stripId);

const trimOf = ({ trimsDb }: Hearing, stripId: string) => fromDb(trimsDb[stripId] ?? 0);

/** The sections of a probe, where it is on this strip. */
function probeSections({ probe }: Hearing, stripId: string, rateHz: number, channels: 1 | 2): KeyedSection[] {
  if (probe?.stripId !== stripId) return [];
  const { frequencyHz, gainDb, q, channel } = probe;
  const bell: BandSettings = { ...BAND_DEFAULTS, type: 'bell', frequencyHz, gainDb, q, channel };
  return equalizerSections({ bands: [bell], outputGainDb: 0 }, rateHz, channels, 'probe');
}

/** A strip as it is listened to. What nothing is done to stays the same object, and is not handed to the audio thread again. */
function listenedStrip<T extends CompiledStrip>(strip: T, hearing: Hearing, rateHz: number, channels: 1 | 2): T {
  const trim = trimOf(hearing, strip.id);
  const hearsKey = hearing.key?.stripId === strip.id;
  if (!isBypassed(hearing, strip.id) && hearing.probe?.stripId !== strip.id && trim === 1 && !hearsKey) return strip;
  const listened = <S extends TimelineState>(state: S): S => ({
    ...state,
    gain: state.gain * trim,
    sends: state.sends.map((send) => (send.beforeFader ? { ...send, gain: send.gain * trim } : send)),
    chain: {
      ...keyHeard(state.chain, hearing.key?.processorId, hearsKey),
      bypassed: isBypassed(hearing, strip.id),
      monitoring: probeSections(hearing, strip.id, rateHz, channels),
    },
  });
  return { ...listened(strip), timeline: overTimeline(strip.timeline, listened) };
}

/** A timeline with every state of it changed. */
const overTimeline = (timeline: Timeline | null, change: (state: TimelineState) => TimelineState): Timeline | null =>
  timeline &&
  timeline.map((segment) => ({ ...segment, start: change(segment.start), end: segment.end && change(segment.end) }));

/** The chain up to a processor whose key is heard. */
function keyHeard(chain: CompiledChain, processorId: string | undefined, isHeard: boolean): CompiledChain {
  const at = chain.stages.findIndex((stage) => stage.kind === 'processor' && stage.id === processorId);
  if (!isHeard || at < 0) return chain;
  const stages = chain.stages.slice(0, at + 1).map((stage, i) => (i === at ? { ...stage, hearsKey: true } : stage));
  return { ...chain, stages };
}

function listenedMaster(chain: CompiledChain, hearing: Hearing, rateHz: number): CompiledChain {
  const { earshot, elsewhere } = hearing;
  const place = elsewhere ? placeOf(elsewhere).bands : [];
  const around = earshot
    ? equalizerSections({ bands: earshotBands(earshot), outputGainDb: 0 }, rateHz, 2, 'earshot')
    : [];
  return {
    ...keyHeard(chain, hearing.key?.processorId, hearing.key?.stripId === MASTER_ID),
    bypassed: isBypassed(hearing, MASTER_ID),
    monitoring: [
      ...probeSections(hearing, MASTER_ID, rateHz, 2),
      ...around,
      ...equalizerSections({ bands: place, outputGainDb: 0 }, rateHz, 2, `elsewhere ${elsewhere}`),
    ],
  };
}

/** A song for the engine as it is listened to. */
export function compileHearing(song: Song, hearing: Hearing): CompiledSong {
  const compiled = compileSong(heardSong(song, hearing));
  const { without, probe, earshot, key, mono, elsewhere, trimsDb } = hearing;
  if (!without && !probe && !earshot && !key && !mono && !elsewhere && Object.keys(trimsDb).length === 0)
    return compiled;
  const { rateHz } = compiled;
  return {
    ...compiled,
    tracks: compiled.tracks.map((track) =>
      listenedStrip(track, hearing, rateHz, chainOpens(track.chain) ? 2 : track.channels),
    ),
    buses: compiled.buses.map((bus) => listenedStrip(bus, hearing, rateHz, 2)),
    masterGain: compiled.masterGain * trimOf(hearing, MASTER_ID),
    masterChain: listenedMaster(compiled.masterChain, hearing, rateHz),
    masterTimeline: overTimeline(compiled.masterTimeline, (state) => ({
      ...state,
      gain: state.gain * trimOf(hearing, MASTER_ID),
      chain: listenedMaster(state.chain, hearing, rateHz),
    })),
    mono,
    ears: elsewhere ? placeOf(elsewhere).ears : BOTH_EARS,
  };
}
