import { z } from 'zod';
import { bandSchema, GAIN_RANGE_DB, phaseSchema } from './band';
import { landmarkSchema } from './landmarks';

/** Everything that a song is, apart from its audio. The Zod schemas are the one source of the types. */
export const MASTER_ID = 'master';
export const FADER_RANGE_DB = { min: -60, max: 24 } as const;
export const TRACK_INKS = 9;
export const SUPPORTED_RATES_HZ = [44100, 48000, 88200, 96000, 176400, 192000] as const;

const id = z.string().min(1).max(40);
const seconds = z.number().min(0).max(36000);
const faderDb = z.number().min(FADER_RANGE_DB.min).max(FADER_RANGE_DB.max);
const name = z.string().trim().min(1, { error: 'a name needs at least one character' }).max(120);

export const equalizerSchema = z.strictObject({
  kind: z.literal('equalizer'),
  id,
  enabled: z.boolean(),
  outputGainDb: z.number().min(GAIN_RANGE_DB.min).max(GAIN_RANGE_DB.max),
  /** Minimum phase: immediate, turns the phase. Linear: late, and rings before what it shapes. */
  phase: phaseSchema.default('minimum'),
  bands: z.array(bandSchema).max(64),
});
export type Equalizer = z.infer<typeof equalizerSchema>;

/** The processors of a track, bus or master in order. */
export const chainSchema = z.array(z.discriminatedUnion('kind', [equalizerSchema])).max(16);
export type Chain = z.infer<typeof chainSchema>;

export const sendSchema = z.strictObject({ busId: id, gainDb: faderDb, tap: z.enum(['before-fader', 'after-fader']) });
export type Send = z.infer<typeof sendSchema>;

/** A range in which a track is meant to be heard. */
export const claimSchema = z.strictObject({ lowHz: z.number().min(10), highHz: z.number().max(30000) });

/** What tracks and buses have in common: level, place, destination. */
const mixerFields = {
  name,
  /** Which of the nine inks: 0 to 8. */
  ink: z
    .int()
    .min(0)
    .max(TRACK_INKS - 1),
  gainDb: faderDb,
  /** −1 left, 0 centre, +1 right. */
  pan: z.number().min(-1).max(1),
  polarityInverted: z.boolean(),
  muted: z.boolean(),
  soloed: z.boolean(),
  /** A bus, or the master. */
  outputId: id,
  sends: z.array(sendSchema).max(16),
};

export const trackSchema = z.strictObject({
  id,
  ...mixerFields,
  /** What instrument it is, in the engineer's words. */
  part: z.string().max(60),
  claims: z.array(claimSchema).max(8),
  /** Content hash of the recording in the audio store. */
  audioId: z.string().regex(/^[0-9a-f]{64}$/),
  channels: z.union([z.literal(1), z.literal(2)]),
  lengthFrames: z.int().min(0),
  chain: chainSchema,
});
export type Track = z.infer<typeof trackSchema>;

export const busSchema = z.strictObject({ id, ...mixerFields, chain: chainSchema });
export type Bus = z.infer<typeof busSchema>;

export const masterSchema = z.strictObject({ id: z.literal(MASTER_ID), gainDb: faderDb, chain: chainSchema });

/** A named part of the song: it lasts until the next one begins. */
export const partSchema = z.strictObject({ name, startSeconds: seconds });
export type SongPart = z.infer<typeof partSchema>;

/** A span in which some settings of a band differ. */
export const passageSchema = z.strictObject({
  id,
  name,
  startSeconds: seconds,
  endSeconds: seconds,
  changes: z.array(
    z.strictObject({ stripId: id, bandId: id, settings: z.record(z.string(), z.union([z.number(), z.boolean()])) }),
  ),
});
export type Passage = z.infer<typeof passageSchema>;

export const loopSchema = z.strictObject({ startSeconds: seconds, endSeconds: seconds, enabled: z.boolean() });
export type Loop = z.infer<typeof loopSchema>;

/** Everything that makes the sound of a song: what a draft holds. */
export const settingsSchema = z.strictObject({
  tracks: z.array(trackSchema).max(200),
  buses: z.array(busSchema).max(60),
  master: masterSchema,
  passages: z.array(passageSchema).max(500),
});
export type Settings = z.infer<typeof settingsSchema>;

/** A named, complete set of settings to come back to and compare. */
export const draftSchema = z.strictObject({ id, name, settings: settingsSchema });
export type Draft = z.infer<typeof draftSchema>;
export const MOST_DRAFTS = 40;

/** An overlap that was listened to and is left as it is. */
export const leftOverlapSchema = z.strictObject({ trackIds: z.tuple([id, id]), ...claimSchema.shape });
export type LeftOverlap = z.infer<typeof leftOverlapSchema>;

export const songSchema = z.strictObject({
  format: z.literal('orvid.song'),
  version: z.literal(1),
  title: name,
  rateHz: z.union(SUPPORTED_RATES_HZ.map((rate) => z.literal(rate))),
  parts: z.array(partSchema).max(200),
  loop: loopSchema.nullable(),
  ...settingsSchema.shape,
  drafts: z.array(draftSchema).max(MOST_DRAFTS).default([]),
  leftOverlaps: z.array(leftOverlapSchema).max(1000).default([]),
  /** The song's own landmarks; null for the ones that everybody has. */
  landmarks: z.array(landmarkSchema).max(300).nullable().default(null),
});
export type Song = z.infer<typeof songSchema>;

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
  return { kind: 'equalizer', id: equalizerId, enabled: true, outputGainDb: 0, phase: 'minimum', bands: [] };
}

/** A song with a master and nothing else. */
export function emptySong(title: string, rateHz: Song['rateHz'] = 48000): Song {
  return {
    format: 'orvid.song',
    version: 1,
    title,
    rateHz,
    parts: [],
    loop: null,
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
    muted: false,
    soloed: false,
    outputId: MASTER_ID,
    sends: [],
    part: '',
    claims: [],
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
    claims: _k,
    ...mixer
  } = newTrack({ audioId: '', channels: 2, lengthFrames: 0 }, wanted);
  return mixer;
}

/** Length of the song in frames: that of its longest recording. */
export function songLengthFrames(song: Song): number {
  return song.tracks.reduce((longest, track) => Math.max(longest, track.lengthFrames), 0);
}

/** The track, bus or master of an id. */
export function findStrip(song: Song, stripId: string): Strip | undefined {
  if (stripId === MASTER_ID) return song.master;
  return song.tracks.find((track) => track.id === stripId) ?? song.buses.find((bus) => bus.id === stripId);
}

/** How many channels a strip's chain works on: buses and the master have two. */
export const stripChannels = (strip: Strip): 1 | 2 => ('channels' in strip ? strip.channels : 2);

/** The first equalizer of a strip's chain: the one the bench shows. */
export function firstEqualizer(strip: { chain: Chain }): Equalizer | undefined {
  return strip.chain.find((processor) => processor.kind === 'equalizer');
}
