import * as z from 'zod';
import {
  BAND_CHANNELS,
  BAND_TYPES,
  FREQUENCY_RANGE_HZ,
  GAIN_RANGE_DB,
  PASS_FAMILIES,
  Q_RANGE,
  TWIN_RANGE_DB,
} from './band';
import {
  DELAY_RANGE_MS,
  FADER_RANGE_DB,
  MASTER_ID,
  MOST_BANDS,
  MOST_BUSES,
  MOST_CHANGES,
  MOST_DRAFTS,
  MOST_PASSAGES,
  MOST_POINTS,
  MOST_TRACKS,
  SONG_VERSION,
  SUPPORTED_RATES_HZ,
  TEMPO_RANGE,
  TRACK_INKS,
} from './model';
import { DETECTORS, FIGURES, GIVES_WAY, MOST_PROCESSORS, type Figure, type ProcessorKind } from './processor';

/**
 * Everything that a song is, apart from its audio. The schemas are the one source of the types; they stand apart from the values so that
 * threads that only compute need not carry the schema library.
 */
const frequencyHz = z.number().min(FREQUENCY_RANGE_HZ.min).max(FREQUENCY_RANGE_HZ.max);

const twinDb = z.number().min(TWIN_RANGE_DB.min).max(TWIN_RANGE_DB.max);

/** How an equalizer treats the phase. */
export const phaseSchema = z.enum(['minimum', 'linear']);
export type EqualizerPhase = z.infer<typeof phaseSchema>;

/** The fields that make the sound of a band; the equalizer file and the song share them. */
export const bandFields = {
  type: z.enum(BAND_TYPES),
  frequencyHz,
  gainDb: z.number().min(GAIN_RANGE_DB.min).max(GAIN_RANGE_DB.max),
  q: z.number().min(Q_RANGE.min).max(Q_RANGE.max),
  family: z.enum(PASS_FAMILIES),
  order: z.int().min(1).max(16),
  rippleDb: z.number().min(0.01).max(12),
  stopbandDb: z.number().min(10).max(120),
  boostDb: twinDb,
  cutDb: twinDb,
  end: z.enum(['low', 'high']),
  channel: z.enum(BAND_CHANNELS),
  enabled: z.boolean(),
  limits: z
    .strictObject({ minHz: frequencyHz, maxHz: frequencyHz })
    .refine((limits) => limits.minHz <= limits.maxHz, { error: 'minHz lies above maxHz' })
    .nullable(),
  note: z.string().max(500),
};

/** One end of a range, Hz; null where it is open. */
const endHz = frequencyHz.nullable();
export const isRange = ({ lowHz, highHz }: { lowHz: number | null; highHz: number | null }) =>
  lowHz === null || highHz === null || lowHz < highHz;

const rangeShape = z.strictObject({ lowHz: endHz, highHz: endHz });
const keyShape = z.strictObject({
  /** {@link OWN_KEY} or another strip: what leaves its chain, before its fader. */
  stripId: z.string().min(1).max(40),
  lowHz: endHz,
  highHz: endHz,
});

/** A range of frequencies, either end of which may be open. */
const rangeSchema = rangeShape.refine(isRange, { error: 'lowHz does not lie below highHz' });
export type Range = z.infer<typeof rangeSchema>;

/** What a processor, or a band that gives way, listens to. */
const keySchema = keyShape.refine(isRange, { error: 'lowHz does not lie below highHz' });
export type Key = z.infer<typeof keySchema>;

/** Changes of these: of what is named only. */
export const rangeChanges = rangeShape.partial();
export const keyChanges = keyShape.partial();
export type KeyChanges = z.infer<typeof keyChanges>;

const numbers = <F extends Record<string, Figure>>(figures: F) =>
  Object.fromEntries(
    Object.entries<Figure>(figures).map(([field, { min, max }]) => [field, z.number().min(min).max(max)]),
  ) as { [Field in keyof F]: z.ZodNumber };

/** How a band moves with a level. */
export const givesWaySchema = z.strictObject({ ...numbers(GIVES_WAY), key: keySchema });
export type GivesWay = z.infer<typeof givesWaySchema>;
export const givesWayChanges = givesWaySchema.extend({ key: keyChanges }).partial();
export type GivesWayChanges = z.infer<typeof givesWayChanges>;

/** A band as a song keeps it: every field filled in, with an identity and the letter it keeps for life. */
export const bandSchema = z.strictObject({
  id: z.string().min(1).max(40),
  letter: z.string().max(3),
  ...bandFields,
  /** Bells and shelves only; null for one that stays where it is. */
  givesWay: givesWaySchema.nullable().default(null),
});
export type Band = z.infer<typeof bandSchema>;

/** A piece of trade knowledge tied to a range and a part. */
export const landmarkSchema = z
  .strictObject({
    id: z.string().min(1).max(40),
    /** Words of which one must occur in the part of a track; empty for every part. */
    parts: z.array(z.string().trim().min(1).max(40)).max(12),
    lowHz: frequencyHz,
    highHz: frequencyHz,
    /** What lies there. */
    what: z.string().trim().min(1).max(80),
    /** What is usually done about it. */
    move: z.string().trim().max(120),
  })
  .refine((landmark) => landmark.lowHz <= landmark.highHz, { error: 'lowHz lies above highHz' });
export type Landmark = z.infer<typeof landmarkSchema>;

const id = z.string().min(1).max(40);
const seconds = z.number().min(0).max(36000);
const faderDb = z.number().min(FADER_RANGE_DB.min).max(FADER_RANGE_DB.max);
const name = z.string().trim().min(1, { error: 'a name needs at least one character' }).max(120);

/** What all that stands in a chain has in common. */
const processorFields = {
  id,
  /** In the engineer's words; empty for that of its kind. */
  name: z.string().trim().max(60).default(''),
  enabled: z.boolean(),
};

export const equalizerSchema = z.strictObject({
  kind: z.literal('equalizer'),
  ...processorFields,
  outputGainDb: z.number().min(GAIN_RANGE_DB.min).max(GAIN_RANGE_DB.max),
  /** Minimum phase: immediate, turns the phase. Linear: late, and rings before what it shapes. */
  phase: phaseSchema.default('minimum'),
  bands: z.array(bandSchema).max(MOST_BANDS),
});
export type Equalizer = z.infer<typeof equalizerSchema>;

/** The fields of a processor of a kind beside those that all have. */
const processorSchema = <K extends ProcessorKind, S extends z.ZodRawShape>(kind: K, more: S) =>
  z.strictObject({ kind: z.literal(kind), ...processorFields, ...numbers(FIGURES[kind]), ...more });

export const gateSchema = processorSchema('gate', { key: keySchema });
export const compressorSchema = processorSchema('compressor', {
  /** True for a ratio without end. */
  limits: z.boolean(),
  detector: z.enum(DETECTORS),
  key: keySchema,
});
export const clipperSchema = processorSchema('clipper', {});
export const duckerSchema = processorSchema('ducker', {
  /** Where it gives way. */
  range: rangeSchema,
  key: keySchema,
});
export const reverbSchema = processorSchema('reverb', {
  /** What of it is heard. */
  range: rangeSchema,
  /** True where the sound itself is heard beside it. */
  dry: z.boolean(),
});
export const echoSchema = processorSchema('echo', {
  /** What of it comes back each time. */
  range: rangeSchema,
  /** True where repeats change sides. */
  crossing: z.boolean(),
  dry: z.boolean(),
});
export const limiterSchema = processorSchema('limiter', {});

export type Gate = z.infer<typeof gateSchema>;
export type Compressor = z.infer<typeof compressorSchema>;
export type Clipper = z.infer<typeof clipperSchema>;
export type Ducker = z.infer<typeof duckerSchema>;
export type Reverb = z.infer<typeof reverbSchema>;
export type Echo = z.infer<typeof echoSchema>;
export type Limiter = z.infer<typeof limiterSchema>;

/** Whatever may stand in a chain. */
export const anyProcessorSchema = z.discriminatedUnion('kind', [
  equalizerSchema,
  gateSchema,
  compressorSchema,
  clipperSchema,
  duckerSchema,
  reverbSchema,
  echoSchema,
  limiterSchema,
]);
export type ChainProcessor = z.infer<typeof anyProcessorSchema>;

/** The processors of a track, bus or master in order. */
export const chainSchema = z.array(anyProcessorSchema).max(MOST_PROCESSORS);
export type Chain = z.infer<typeof chainSchema>;

export const sendSchema = z.strictObject({
  busId: id,
  gainDb: faderDb,
  tap: z.enum(['before-fader', 'after-fader']),
  /** False for one that only passages switch on. */
  enabled: z.boolean().default(true),
});
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
  /** Levels of what both sides share and of what they differ in, behind the chain; mono has neither. */
  midDb: faderDb.default(0),
  sideDb: faderDb.default(0),
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
  /** How much later than recorded it sounds; below 0 earlier. */
  delayMs: z.number().min(DELAY_RANGE_MS.min).max(DELAY_RANGE_MS.max).default(0),
  chain: chainSchema,
});
export type Track = z.infer<typeof trackSchema>;

export const busSchema = z.strictObject({
  id,
  ...mixerFields,
  /** Of a group, as of a track. */
  claims: z.array(claimSchema).max(8).default([]),
  chain: chainSchema,
});
export type Bus = z.infer<typeof busSchema>;

export const masterSchema = z.strictObject({ id: z.literal(MASTER_ID), gainDb: faderDb, chain: chainSchema });

/** A named part of the song: it lasts until the next one begins. */
export const partSchema = z.strictObject({ name, startSeconds: seconds });
export type SongPart = z.infer<typeof partSchema>;

/** A figure or a switch of the song: what a passage may set otherwise. */
export const figureRefSchema = z.strictObject({
  stripId: id,
  /** What of the strip it belongs to. */
  of: z.enum(['strip', 'send', 'processor', 'band']),
  /** The bus of a send, the processor or the band; nothing for the strip itself. */
  partId: z.string().max(40),
  /** Its name there; of a band that gives way, `givesWay.amountDb` and so on. */
  field: z.string().min(1).max(40),
});
export type FigureRef = z.infer<typeof figureRefSchema>;

/** What a figure is within a passage: one value, or a line through points, straight on the figure's own scale. */
export const passageValueSchema = z.strictObject({
  value: z.union([z.number(), z.boolean()]),
  /** In the order of their times, seconds from the passage's beginning; none where the value holds all through it. */
  points: z
    .array(z.strictObject({ atSeconds: seconds, value: z.number() }))
    .max(MOST_POINTS)
    .default([]),
});
export type PassageValue = z.infer<typeof passageValueSchema>;

export const passageChangeSchema = z.strictObject({ figure: figureRefSchema, ...passageValueSchema.shape });
export type PassageChange = z.infer<typeof passageChangeSchema>;

/** A span of the song in which some figures and switches differ. */
export const passageSchema = z.strictObject({
  id,
  name,
  startSeconds: seconds,
  endSeconds: seconds,
  /** How long its figures are on their way at its beginning and at its end, within it. */
  fadeInSeconds: seconds,
  fadeOutSeconds: seconds,
  enabled: z.boolean(),
  changes: z.array(passageChangeSchema).max(MOST_CHANGES),
});
export type Passage = z.infer<typeof passageSchema>;

/** Where bars and beats lie. */
export const gridSchema = z.strictObject({
  /** Where bar 1 begins; below 0 where the recordings begin within it. */
  startSeconds: z.number().min(-3600).max(36000),
  /** Tempos from a place on, in quarter notes from the beginning of bar 1; the first at 0. */
  tempos: z
    .array(z.strictObject({ quarter: z.number().min(0), bpm: z.number().min(TEMPO_RANGE.min).max(TEMPO_RANGE.max) }))
    .min(1)
    .max(1000),
  /** Metres from a bar on; the first at bar 1. */
  metres: z
    .array(
      z.strictObject({
        bar: z.int().min(1),
        beats: z.int().min(1).max(32),
        unit: z.union([1, 2, 4, 8, 16, 32].map((unit) => z.literal(unit))),
      }),
    )
    .min(1)
    .max(1000),
});
export type Grid = z.infer<typeof gridSchema>;

export const loopSchema = z.strictObject({ startSeconds: seconds, endSeconds: seconds, enabled: z.boolean() });
export type Loop = z.infer<typeof loopSchema>;

/** Everything that makes the sound of a song: what a draft holds. */
export const settingsSchema = z.strictObject({
  tracks: z.array(trackSchema).max(MOST_TRACKS),
  buses: z.array(busSchema).max(MOST_BUSES),
  master: masterSchema,
  passages: z.array(passageSchema).max(MOST_PASSAGES),
});
export type Settings = z.infer<typeof settingsSchema>;

/** A named, complete set of settings to come back to and compare. */
export const draftSchema = z.strictObject({ id, name, settings: settingsSchema });
export type Draft = z.infer<typeof draftSchema>;

/** An overlap that was listened to and is left as it is. */
export const leftOverlapSchema = z.strictObject({ trackIds: z.tuple([id, id]), ...claimSchema.shape });
export type LeftOverlap = z.infer<typeof leftOverlapSchema>;

export const songSchema = z.strictObject({
  format: z.literal('orvid.song'),
  version: z.literal(SONG_VERSION),
  title: name,
  rateHz: z.union(SUPPORTED_RATES_HZ.map((rate) => z.literal(rate))),
  parts: z.array(partSchema).max(200),
  loop: loopSchema.nullable(),
  /** Bars and beats; null where nobody has said where they lie. */
  grid: gridSchema.nullable().default(null),
  ...settingsSchema.shape,
  drafts: z.array(draftSchema).max(MOST_DRAFTS).default([]),
  leftOverlaps: z.array(leftOverlapSchema).max(1000).default([]),
  /** The song's own landmarks; null for the ones that everybody has. */
  landmarks: z.array(landmarkSchema).max(300).nullable().default(null),
});
export type Song = z.infer<typeof songSchema>;
