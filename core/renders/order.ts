import * as z from 'zod';
import { RENDER_FORMATS } from '../formats';
import { isReturn, MASTER_ID, songLengthFrames, tracksLeftOut, type Bus, type Song, type Track } from '../song';
import { nameByPattern, unlike } from './names';

/** Kinds of sound files that are made. */
export const SOUND_FILES = ['wav', 'flac', 'mp3'] as const;
export type SoundFile = (typeof SOUND_FILES)[number];

/** The longest that what rings on is waited for, seconds. */
export const TAIL_RANGE_SECONDS = { min: 0, max: 60 } as const;
export const LUFS_RANGE = { min: -40, max: -5 } as const;
export const CEILING_RANGE_DBTP = { min: -12, max: 0 } as const;
export const MOST_SPANS = 100;
/** Files that one order makes at most. */
export const MOST_FILES = 1000;

/** A loudness that a mix is brought to. `by`: what keeps peaks below the ceiling: only less gain, or a limiter. */
export const loudnessTargetSchema = z.strictObject({
  lufs: z.number().min(LUFS_RANGE.min).max(LUFS_RANGE.max),
  ceilingDbtp: z.number().min(CEILING_RANGE_DBTP.min).max(CEILING_RANGE_DBTP.max),
  by: z.enum(['gain', 'limiter']),
});
export type LoudnessTarget = z.infer<typeof loudnessTargetSchema>;

const seconds = z.number().min(0).max(36000);

/** A stretch of the song that becomes files; its name is empty for the whole song. */
export const spanSchema = z
  .strictObject({ name: z.string().max(120), startSeconds: seconds, endSeconds: seconds })
  .refine((span) => span.startSeconds < span.endSeconds, { error: 'it ends before it begins' });
export type RenderSpan = z.infer<typeof spanSchema>;

/** How the files of an order are written. */
export const fileSettingsSchema = z.strictObject({
  file: z.enum(SOUND_FILES),
  /** Of MP3 files it is of no account. */
  bits: z.enum(RENDER_FORMATS),
  /** Mixes only; null for the level that the song has. */
  loudness: loudnessTargetSchema.nullable(),
  /** What rings on after the end is waited for so long at most; 0 ends at the end. */
  tailSeconds: z.number().min(TAIL_RANGE_SECONDS.min).max(TAIL_RANGE_SECONDS.max),
  /** Why it was made: goes into the files. */
  why: z.string().trim().max(500),
});
export type FileSettings = z.infer<typeof fileSettingsSchema>;

/** What is rendered, of which stretches, and how it is written. */
export const renderOrderSchema = z.strictObject({
  mix: z.boolean(),
  /** The mix before the master's chain and fader: what the strips add up to. */
  beforeMaster: z.boolean(),
  /** Tracks, groups and returns, each by itself. */
  strips: z.array(z.string().min(1).max(40)).max(300),
  /** Whether the strips go through the master's chain and fader. */
  throughMaster: z.boolean(),
  /** None is the whole song. */
  spans: z.array(spanSchema).max(MOST_SPANS),
  pattern: z.string().trim().min(1).max(120),
  settings: fileSettingsSchema,
});
export type RenderOrder = z.infer<typeof renderOrderSchema>;

export const DEFAULT_PATTERN = '{song} {part} {strip}';

export const plainOrder: RenderOrder = {
  mix: true,
  beforeMaster: false,
  strips: [],
  throughMaster: false,
  spans: [],
  pattern: DEFAULT_PATTERN,
  settings: { file: 'wav', bits: '24', loudness: null, tailSeconds: 12, why: '' },
};

/** One file of an order. */
export interface PlannedFile {
  /** With its ending. */
  name: string;
  /** `mix`, `before-master`, or the id of a strip. */
  what: string;
  /** What it is, for its metadata: “Cello”. */
  title: string;
  span: RenderSpan;
  throughMaster: boolean;
}

export const MIX = 'mix';
export const BEFORE_MASTER = 'before-master';

const frameAt = (seconds: number, { rateHz }: Song) => Math.round(seconds * rateHz);

/** The frames of a span, within the song. */
export function spanFrames(song: Song, { startSeconds, endSeconds }: RenderSpan) {
  const length = songLengthFrames(song);
  return {
    startFrame: Math.min(length, frameAt(startSeconds, song)),
    endFrame: Math.min(length, frameAt(endSeconds, song)),
  };
}

/** The whole of a song as a span. */
export const wholeSong = (song: Song): RenderSpan => ({
  name: '',
  startSeconds: 0,
  endSeconds: songLengthFrames(song) / song.rateHz,
});

/** The parts of a song as spans: each lasts until the next one begins. */
export function partSpans(song: Song): RenderSpan[] {
  const end = songLengthFrames(song) / song.rateHz;
  const parts = [...song.parts].sort((first, second) => first.startSeconds - second.startSeconds);
  return parts
    .map(({ name, startSeconds }, i) => ({ name, startSeconds, endSeconds: parts[i + 1]?.startSeconds ?? end }))
    .filter((span) => span.startSeconds < span.endSeconds);
}

/** Strips that are heard in the mix: neither muted, nor silent because others are soloed. */
function heardStrips(song: Song): (Track | Bus)[] {
  const { muted, notSoloed } = tracksLeftOut(song);
  const silent = new Set([...muted, ...notSoloed].map(({ id }) => id));
  return [...song.tracks.filter(({ id }) => !silent.has(id)), ...song.buses.filter((bus) => !bus.muted)];
}

/** The strips that run straight into the master: by themselves at unity they add up to the mix before its chain. */
export const stripsThatAddUp = (song: Song): string[] =>
  heardStrips(song)
    .filter(({ outputId }) => outputId === MASTER_ID)
    .map(({ id }) => id);

/** All strips that are heard, in the order of the song. */
export const renderableStrips = (song: Song): { id: string; name: string; kind: 'track' | 'group' | 'return' }[] =>
  heardStrips(song).map((strip) => ({
    id: strip.id,
    name: strip.name,
    kind: 'audioId' in strip ? 'track' : isReturn(song, strip.id) ? 'return' : 'group',
  }));

/**
 * The files of an order, span by span, in the order of the strips; no two have the same name. Strips that are not heard in the mix have none.
 * @throws nothing: what is not there is left out
 */
export function plannedFiles(song: Song, order: RenderOrder): PlannedFile[] {
  const strips = renderableStrips(song).filter(({ id }) => order.strips.includes(id));
  const spans = (order.spans.length > 0 ? order.spans : [wholeSong(song)]).filter((span) => {
    const { startFrame, endFrame } = spanFrames(song, span);
    return startFrame < endFrame;
  });
  const taken = new Set<string>();
  const files: PlannedFile[] = [];
  for (const span of spans) {
    const whats = [
      ...(order.mix ? [{ what: MIX, title: 'mix', throughMaster: true }] : []),
      ...(order.beforeMaster ? [{ what: BEFORE_MASTER, title: 'before the master', throughMaster: false }] : []),
      ...strips.map(({ id, name }) => ({ what: id, title: name, throughMaster: order.throughMaster })),
    ];
    for (const [i, { what, title, throughMaster }] of whats.entries()) {
      const wanted = nameByPattern(order.pattern, {
        song: song.title,
        part: span.name,
        strip: title,
        number: String(i + 1).padStart(2, '0'),
      });
      files.push({ name: `${unlike(wanted, taken)}.${order.settings.file}`, what, title, span, throughMaster });
    }
  }
  return files;
}
