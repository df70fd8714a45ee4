import { givesWay } from './band';
import { FIGURES, OWN_KEY, type Figure, type ProcessorKind } from './processor';
import type { SingleEdit } from './edit-schema';
import type { Bus, Chain, ChainProcessor, Equalizer, Key, Settings, Song, Track } from './schema';

/** What a song is made of, as plain values: their types and limits are the schemas'. */
export const MASTER_ID = 'master';
/** By how much a track may sound later, or earlier, than it was recorded. */
export const DELAY_RANGE_MS = { min: -100, max: 100 } as const;
export const FADER_RANGE_DB = { min: -60, max: 24 } as const;
export const TRACK_INKS = 9;
export const MOST_DRAFTS = 40;
export const MOST_TRACKS = 200;
export const MOST_BUSES = 60;
/** Bands of one equalizer. */
export const MOST_BANDS = 64;
export const MOST_PASSAGES = 500;
/** Figures that one passage sets, and points of a line. */
export const MOST_CHANGES = 200;
export const MOST_POINTS = 500;
/** Tempos, quarter notes a minute. */
export const TEMPO_RANGE = { min: 20, max: 400 } as const;
/** The version of the song's form and of the edits that this application knows. */
export const SONG_VERSION = 3;
export const EDIT_VERSION = 4;
export const SUPPORTED_RATES_HZ = [44100, 48000, 88200, 96000, 176400, 192000] as const;
/** Of a song where nothing speaks for another one. */
export const USUAL_RATE_HZ = 48000;

/** The settings of a song. */
export const settingsOf = ({ tracks, buses, master, passages }: Settings): Settings => ({
  tracks,
  buses,
  master,
  passages,
});
export type Strip = Track | Bus | Song['master'];

/** An empty equalizer. */
export function emptyEqualizer(equalizerId: string): Equalizer {
  return { kind: 'equalizer', id: equalizerId, name: '', enabled: true, outputGainDb: 0, phase: 'minimum', bands: [] };
}

/** A song with a master and nothing else. */
export function emptySong(title: string, rateHz: Song['rateHz'] = USUAL_RATE_HZ): Song {
  return {
    format: 'orvid.song',
    version: SONG_VERSION,
    title,
    rateHz,
    parts: [],
    loop: null,
    grid: null,
    tracks: [],
    buses: [],
    master: { id: MASTER_ID, gainDb: 0, chain: [emptyEqualizer('master-equalizer')] },
    passages: [],
    drafts: [],
    leftOverlaps: [],
    landmarks: null,
  };
}

/** A track for a recording, at unity, with an empty equalizer. */
export function newTrack(
  recording: { audioId: string; channels: 1 | 2; lengthFrames: number },
  wanted: { id: string; name: string; ink: number },
): Track {
  return {
    id: wanted.id,
    name: wanted.name,
    ink: wanted.ink % TRACK_INKS,
    gainDb: 0,
    pan: 0,
    polarityInverted: false,
    midDb: 0,
    sideDb: 0,
    muted: false,
    soloed: false,
    outputId: MASTER_ID,
    sends: [],
    part: '',
    claims: [],
    delayMs: 0,
    ...recording,
    chain: [emptyEqualizer(`${wanted.id}-equalizer`)],
  };
}

/** A bus at unity into the master, with an empty equalizer. */
export function newBus(wanted: { id: string; name: string; ink: number }): Bus {
  const {
    audioId: _a,
    channels: _c,
    lengthFrames: _l,
    part: _p,
    delayMs: _d,
    ...mixer
  } = newTrack({ audioId: '', channels: 2, lengthFrames: 0 }, wanted);
  return mixer;
}

/** Length of the song in frames: until its last recording ends. */
export function songLengthFrames({ tracks, rateHz }: Song): number {
  return tracks.reduce(
    (longest, { lengthFrames, delayMs }) => Math.max(longest, lengthFrames + Math.ceil((delayMs * rateHz) / 1000)),
    0,
  );
}

/** The track, bus or master of an id. */
export function findStrip(song: Settings, stripId: string): Strip | undefined {
  if (stripId === MASTER_ID) return song.master;
  return song.tracks.find((track) => track.id === stripId) ?? song.buses.find((bus) => bus.id === stripId);
}

/** How many channels go into a strip's chain: buses and the master have two. */
export const stripChannels = (strip: Pick<Strip, 'chain'>): 1 | 2 =>
  'channels' in strip && strip.channels === 1 ? 1 : 2;

/** True for a processor that makes two different sides of one. */
export const opensSides = ({ kind }: { kind: string }): boolean => kind === 'reverb' || kind === 'echo';

/** How many channels come out of a chain, or out of the first part of one, that so many go into. */
export const channelsBehind = (chain: Chain, channels: 1 | 2): 1 | 2 => (chain.some(opensSides) ? 2 : channels);

/** How many channels go into a processor of a strip; into a chain's end where there is none of that id. */
export function channelsInto(strip: Pick<Strip, 'chain'>, processorId: string | undefined): 1 | 2 {
  const at = strip.chain.findIndex(({ id }) => id === processorId);
  return channelsBehind(at < 0 ? strip.chain : strip.chain.slice(0, at), stripChannels(strip));
}

/** How many channels come out of a strip's chain. */
export const channelsOut = (strip: Pick<Strip, 'chain'>): 1 | 2 => channelsBehind(strip.chain, stripChannels(strip));

/** The equalizers of a chain, in their order. */
export const equalizersOf = (chain: Chain): Equalizer[] => chain.filter((processor) => processor.kind === 'equalizer');

/** The chain with its equalizers changed, and everything else as it was. */
export const withEqualizers = (chain: Chain, change: (equalizer: Equalizer) => Equalizer): Chain =>
  chain.map((processor) => (processor.kind === 'equalizer' ? change(processor) : processor));

/** The first equalizer of a strip's chain: the one that edits go to where none is chosen. */
export const firstEqualizer = (strip: { chain: Chain }): Equalizer | undefined => equalizersOf(strip.chain)[0];

/** The equalizer that a band belongs to. */
export const equalizerWith = (strip: { chain: Chain }, bandId: string): Equalizer | undefined =>
  equalizersOf(strip.chain).find(({ bands }) => bands.some(({ id }) => id === bandId));

/** All bands of a strip, through its equalizers. */
export const bandsOf = (strip: { chain: Chain }): Equalizer['bands'] =>
  equalizersOf(strip.chain).flatMap(({ bands }) => bands);

/** The edit that switches a processor of any kind on or off. */
export const switchEdit = (stripId: string, { kind, id }: ChainProcessor, enabled: boolean): SingleEdit =>
  kind === 'equalizer'
    ? { kind: 'equalizer.set', stripId, equalizerId: id, changes: { enabled } }
    : ({ kind: 'processor.set', processorKind: kind, stripId, processorId: id, changes: { enabled } } as SingleEdit);

/** What a processor listens to; undefined for those that listen to nothing. */
export const keyOf = (processor: ChainProcessor): Key | undefined => ('key' in processor ? processor.key : undefined);

/** The other strips that a strip's processors listen to. */
export const keyStripsOf = ({ chain }: Strip): string[] =>
  chain
    .flatMap((processor) => keysOf(processor).map(({ stripId }) => stripId))
    .filter((stripId) => stripId !== OWN_KEY);

/** All that a processor listens to; of an equalizer, what its bands do. */
export const keysOf = (processor: ChainProcessor): Key[] =>
  processor.kind === 'equalizer'
    ? processor.bands.filter(givesWay).map((band) => band.givesWay.key)
    : 'key' in processor
      ? [processor.key]
      : [];

/** A processor as it starts: it does nothing that is heard until a threshold is reached. */
export function newProcessor(kind: ProcessorKind, id: string): ChainProcessor {
  const figures = Object.fromEntries(Object.entries<Figure>(FIGURES[kind]).map(([field, { start }]) => [field, start]));
  const open = { lowHz: null, highHz: null };
  const key = { stripId: OWN_KEY, ...open };
  const more = {
    gate: { key },
    compressor: { key, limits: false, detector: 'peak' },
    clipper: {},
    ducker: { key, range: open },
    reverb: { range: open, dry: true },
    echo: { range: open, dry: true, crossing: false },
    limiter: {},
  }[kind];
  return { kind, id, name: '', enabled: true, ...figures, ...more } as ChainProcessor;
}
