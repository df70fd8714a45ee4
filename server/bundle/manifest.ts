import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { plainName } from '@/core/renders';
import { checkIds, checkRouting, SONG_VERSION, songSchema, upgradeSong, type Song } from '@/core/song';

/**
 * A song as one file, `*.orvid.zip`: `orvid-bundle.json` with the song and a list of its recordings, and the recordings as they came in.
 * Names in the file are never paths on the disk.
 */
export const MANIFEST_NAME = 'orvid-bundle.json';
export const RECORDINGS_FOLDER = 'recordings/';
export const BUNDLE_VERSION = 1;
/** A manifest is no longer than this; a song of 200 tracks has about 4 MB. */
export const MOST_MANIFEST_BYTES = 64 * 2 ** 20;
/** Files in a bundle: recordings of tracks and drafts, and what other programs put beside them. */
export const MOST_ENTRIES = 20_000;

const hash = z.string().regex(/^[0-9a-f]{64}$/, { error: 'must be a SHA-256 of 64 hexadecimal digits' });

const recordingSchema = z.strictObject({
  audioId: hash,
  /** SHA-256 of the file. */
  sha256: hash,
  bytes: z.int().min(0),
  /** Where it lies in the bundle. */
  file: z.string().min(1).max(300),
  /** What it was called. */
  name: z.string().min(1).max(255),
});
export type BundledRecording = z.infer<typeof recordingSchema>;

const manifestSchema = z.strictObject({
  format: z.literal('orvid.bundle'),
  version: z.literal(BUNDLE_VERSION),
  song: z.preprocess(upgradeSong, songSchema),
  recordings: z.array(recordingSchema).max(MOST_ENTRIES),
});
export type Manifest = z.infer<typeof manifestSchema>;

/** The recordings that a song plays, in its tracks and in its drafts, each once, with the name of the first track that does. */
export function recordingsOf(song: Song): { audioId: string; trackName: string }[] {
  const found = new Map<string, string>();
  for (const { tracks } of [song, ...song.drafts.map(({ settings }) => settings)])
    for (const { audioId, name } of tracks) if (!found.has(audioId)) found.set(audioId, name);
  return [...found].map(([audioId, trackName]) => ({ audioId, trackName }));
}

/** The name of a recording in a bundle: readable, and no other's. */
export const entryName = (index: number, name: string): string => {
  const dot = name.lastIndexOf('.');
  const [stem, ending] = dot > 0 ? [name.slice(0, dot), name.slice(dot + 1)] : [name, ''];
  const plain = [plainName(stem) || 'recording', plainName(ending)].filter(Boolean).join('.');
  return `${RECORDINGS_FOLDER}${String(index + 1).padStart(3, '0')}-${plain}`;
};

/** What a manifest says. @throws OrvidError `invalid-input` with file and field, `conflict` for one of a newer version */
export function readManifest(text: string, bundleName: string): Manifest {
  const refuse = (field: string, problem: string) =>
    new OrvidError('invalid-input', `${bundleName}: ${field}: ${problem}.`, 'No song was made of it.');
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw refuse(MANIFEST_NAME, 'it cannot be read as JSON');
  }
  const { version, format, song } = (json ?? {}) as {
    version?: unknown;
    format?: unknown;
    song?: { version?: unknown };
  };
  if (format !== 'orvid.bundle') throw refuse('format', 'this is no song that Orvid has packed');
  const isNewer = (value: unknown, known: number) => typeof value === 'number' && value > known;
  if (isNewer(version, BUNDLE_VERSION) || isNewer(song?.version, SONG_VERSION))
    throw new OrvidError(
      'conflict',
      `${bundleName} was packed by a newer Orvid, which this one does not understand.`,
      'No song was made of it. Open it with the newer one.',
    );
  const parsed = manifestSchema.safeParse(json);
  if (!parsed.success) throw refuse(parsed.error.issues[0].path.join('.') || 'content', parsed.error.issues[0].message);
  try {
    checkRouting(parsed.data.song);
    checkIds(parsed.data.song);
  } catch (thrown) {
    throw refuse('song', (thrown as Error).message);
  }
  return parsed.data;
}
