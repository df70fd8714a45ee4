import { mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { eq, inArray } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import { ANALYSIS_VERSION } from '@/core/measure';
import { newId } from '@/core/song';
import { SUSPECTS_VERSION } from '@/core/suspects';
import { config } from '../config';
import { database } from '../database/client';
import { audio } from '../database/schema';
import type { StoredRecording } from './measure-recording';
import type { PageFile } from './page-file';

/**
 * Recordings lie in the data folder under the hash of what they hold; nothing a client says is ever part of a path.
 * Files are written under a temporary name, synced and renamed, so a file that has its name is whole.
 */
const HASH = /^[0-9a-f]{64}$/;

function inStore(
  folder: 'originals' | 'pages' | 'frozen' | `${'band-levels' | 'overviews' | 'suspects' | 'waveforms'}-${number}`,
  hash: string,
): string {
  if (!HASH.test(hash)) throw new OrvidError('invalid-input', 'This is not the name of a recording.');
  return path.join(config().dataDir, 'audio', folder, hash);
}

export const originalPath = (hash: string) => inStore('originals', hash);
export const pagesPath = (audioId: string) => inStore('pages', audioId);
/** Of a frozen track: its pages, and what is told of them. */
export const frozenPaths = (audioId: string) => {
  const pages = inStore('frozen', audioId);
  return { pages, facts: `${pages}.json` };
};
export const suspectsPath = (audioId: string) => inStore(`suspects-${SUSPECTS_VERSION}`, audioId);
/** What is seen of a recording at first sight: its figures, and its waveform as it is seen whole. */
export const analysisPath = (audioId: string) => inStore(`overviews-${ANALYSIS_VERSION}`, audioId);
export const bandLevelsPath = (audioId: string) => inStore(`band-levels-${ANALYSIS_VERSION}`, audioId);
export const waveformPath = (audioId: string) => inStore(`waveforms-${ANALYSIS_VERSION}`, audioId);
/** All that is kept in files of what is measured when a recording comes in. */
export const measuredPaths = (audioId: string) => [
  bandLevelsPath(audioId),
  analysisPath(audioId),
  waveformPath(audioId),
];

const incomingFolder = () => path.join(config().dataDir, 'incoming');

/** A file among what comes in. @param name its plain name */
export const incomingPath = (name: string): string => path.join(incomingFolder(), path.basename(name));

/** A new temporary file name in the data folder; it begins with the number of the process that works on it. */
export async function temporaryPath(): Promise<string> {
  await mkdir(incomingFolder(), { recursive: true });
  return incomingPath(`${process.pid}-${newId()}`);
}

/** Whether a process that runs works on a temporary file: this one since its start, or a command beside it. */
async function isWorkedOn(name: string): Promise<boolean> {
  const pid = Number(name.split('-', 1)[0]);
  if (!Number.isInteger(pid) || pid < 1) return false;
  if (pid === process.pid) {
    const found = await stat(incomingPath(name)).catch(() => null);
    return found !== null && found.mtimeMs >= performance.timeOrigin;
  }
  try {
    return process.kill(pid, 0);
  } catch (thrown) {
    return (thrown as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/** Gives a finished temporary file its name for good. */
export async function settle(temporary: string, final: string): Promise<void> {
  await mkdir(path.dirname(final), { recursive: true });
  const file = await open(temporary, 'r');
  await file.sync();
  await file.close();
  await rename(temporary, final);
}

export async function discard(...temporaries: string[]): Promise<void> {
  await Promise.all(temporaries.map((file) => rm(file, { force: true })));
}

/** Clears what a crash has left among what comes in. @param kept plain names of files that are still wanted */
export async function discardLeftovers(kept: readonly string[]): Promise<void> {
  for (const name of await readdir(incomingFolder()).catch(() => []))
    if (!kept.includes(name) && !(await isWorkedOn(name))) await discard(incomingPath(name));
}

export type AudioRow = typeof audio.$inferSelect;

export async function findAudio(audioId: string): Promise<AudioRow | undefined> {
  const db = await database();
  return (await db.select().from(audio).where(eq(audio.id, audioId)))[0];
}

/** Registers a recording whose files are in place. Of one that is there already, how its pages were written is noted anew. */
export async function registerAudio(row: Omit<AudioRow, 'createdAt'>): Promise<void> {
  const db = await database();
  await db
    .insert(audio)
    .values({ ...row, createdAt: new Date() })
    .onConflictDoUpdate({
      target: audio.id,
      set: { pageChecksums: row.pageChecksums, sampleBits: row.sampleBits },
    });
}

/** Keeps how the pages of a recording were written. */
export async function keepWritten(
  audioId: string,
  written: Pick<AudioRow, 'pageChecksums' | 'sampleBits'>,
): Promise<void> {
  const db = await database();
  await db.update(audio).set(written).where(eq(audio.id, audioId));
}

/** @returns rows by their ids, of the recordings that are here */
export async function storedAudios(audioIds: readonly string[]): Promise<Map<string, AudioRow>> {
  const db = await database();
  const rows = await db
    .select()
    .from(audio)
    .where(inArray(audio.id, [...audioIds]));
  return new Map(rows.map((row) => [row.id, row]));
}

export const noSuchRecording = () => new OrvidError('not-found', 'There is no recording of this name in the store.');

/** @returns rows by their ids. @throws OrvidError `not-found` */
export async function needAudios(audioIds: readonly string[]): Promise<Map<string, AudioRow>> {
  const rows = await storedAudios(audioIds);
  if (rows.size < new Set(audioIds).size) throw noSuchRecording();
  return rows;
}

/** @throws OrvidError `not-found` */
export const needAudio = async (audioId: string): Promise<AudioRow> => (await needAudios([audioId])).get(audioId)!;

export const pageFileOf = ({ id, pageChecksums, originalName, rateHz, sampleBits }: AudioRow): PageFile => ({
  path: pagesPath(id),
  checksums: pageChecksums,
  name: originalName,
  rateHz,
  bits: sampleBits,
});

/** A recording as threads, and all that read its pages, know it. */
export const recordingOf = (row: AudioRow): StoredRecording => {
  const { channels, rateHz, lengthFrames } = row;
  return { pages: pageFileOf(row), channels, rateHz, lengthFrames };
};
