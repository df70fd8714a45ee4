import { readFile } from 'node:fs/promises';
import path from 'node:path';
import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { checkRouting, songSchema, upgradeSong, type Song } from '@/core/song';
import { discard } from '../audio/store';
import { decodeRecording } from '../import/decode-recording';
import { freshPages, type PageFile } from '../audio/page-file';

/**
 * A song on disk, `*.orvid.json`: the song, and for each recording the audio file beside it. A file name leads nowhere else.
 */
const plainName = z.string().regex(/^(?!\.\.?$)[^/\\]+$/, { error: 'must be a plain file name beside the song' });
const songFileSchema = z.strictObject({
  format: z.literal('orvid.song-file'),
  version: z.literal(1),
  song: z.preprocess(upgradeSong, songSchema),
  audio: z.record(z.string(), plainName),
});

async function readSongFile(file: string): Promise<z.infer<typeof songFileSchema>> {
  const name = path.basename(file);
  const refuse = (field: string, problem: string) =>
    new OrvidError('invalid-input', `${name}: ${field}: ${problem}. Nothing was rendered.`);
  let json: unknown;
  try {
    json = JSON.parse(await readFile(file, 'utf8'));
  } catch (error) {
    throw refuse('content', `cannot be read as JSON (${(error as Error).message})`);
  }
  const version = (json as { version?: unknown } | null)?.version;
  if (version !== 1) throw refuse('version', `expected 1, found ${JSON.stringify(version)}`);
  const parsed = songFileSchema.safeParse(json);
  if (!parsed.success) throw refuse(parsed.error.issues[0].path.join('.') || 'content', parsed.error.issues[0].message);
  checkRouting(parsed.data.song);
  return parsed.data;
}

/**
 * Lends a song from a file, its recordings decoded to temporary pages that are removed afterwards.
 * @throws OrvidError `invalid-input` with file and field, `unreadable-audio`
 */
export async function withSongFile<T>(
  file: string,
  temporaryFolder: string,
  use: (song: Song, pageFiles: Record<string, PageFile>) => Promise<T>,
): Promise<T> {
  const { song, audio } = await readSongFile(file);
  const pageFiles: Record<string, PageFile> = {};
  const written: string[] = [];
  try {
    for (const track of song.tracks) {
      const fileName = audio[track.audioId];
      if (!fileName)
        throw new OrvidError(
          'invalid-input',
          `${path.basename(file)}: audio: the recording of “${track.name}” is not listed.`,
        );
      if (pageFiles[track.audioId]) continue;
      const pages = path.join(temporaryFolder, track.audioId);
      const source = path.join(path.dirname(file), fileName);
      written.push(pages);
      const decoded = await decodeRecording({ source, pages, fileName, rateHz: song.rateHz }, () => undefined);
      pageFiles[track.audioId] = freshPages(pages, fileName, song.rateHz, decoded.sampleBits);
      if (decoded.channels !== track.channels || decoded.lengthFrames !== track.lengthFrames) {
        throw new OrvidError(
          'invalid-input',
          `${fileName}: it is not the recording that the song was made with: length or channels differ.`,
        );
      }
    }
    return await use(song, pageFiles);
  } finally {
    await discard(...written);
  }
}
