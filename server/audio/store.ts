import { mkdir, open, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import { PAGE_FRAMES } from '@/core/engine';
import { ANALYSIS_VERSION, type RecordingAnalysis } from '@/core/measure';
import { newId } from '@/core/song';
import { SUSPECTS_VERSION } from '@/core/suspects';
import { config } from '../config';
import { database } from '../database/client';
import { analyses, audio } from '../database/schema';

/**
 * Recordings lie in the data folder under the hash of what they hold; nothing a client says is ever part of a path.
 * Files are written under a temporary name, synced and renamed, so a file that has its name is whole.
 */
const HASH = /^[0-9a-f]{64}$/;

function inStore(folder: 'originals' | 'pages' | `${'band-levels' | 'suspects'}-${number}`, hash: string): string {
  if (!HASH.test(hash)) throw new OrvidError('invalid-input', 'This is not the name of a recording.');
  return path.join(config().dataDir, 'audio', folder, hash);
}

export const originalPath = (hash: string) => inStore('originals', hash);
export const pagesPath = (audioId: string) => inStore('pages', audioId);
export const suspectsPath = (audioId: string) => inStore(`suspects-${SUSPECTS_VERSION}`, audioId);
export const bandLevelsPath = (audioId: string) => inStore(`band-levels-${ANALYSIS_VERSION}`, audioId);

/** A new temporary file name in the data folder. */
export async function temporaryPath(): Promise<string> {
  const folder = path.join(config().dataDir, 'incoming');
  await mkdir(folder, { recursive: true });
  return path.join(folder, newId());
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

/** What is left of imports that a crash interrupted. */
export async function discardLeftovers(): Promise<void> {
  await rm(path.join(config().dataDir, 'incoming'), { recursive: true, force: true });
}

export type AudioRow = typeof audio.$inferSelect;

export async function findAudio(audioId: string): Promise<AudioRow | undefined> {
  const db = await database();
  return (await db.select().from(audio).where(eq(audio.id, audioId)))[0];
}

/** Registers a recording whose files are in place. One that is there already stays. */
export async function registerAudio(row: Omit<AudioRow, 'createdAt'>): Promise<void> {
  const db = await database();
  await db
    .insert(audio)
    .values({ ...row, createdAt: new Date() })
    .onConflictDoNothing();
}

/** Keeps what was measured of a registered recording, in place of what an older version measured. */
export async function keepAnalysis(audioId: string, analysis: RecordingAnalysis): Promise<void> {
  const db = await database();
  await db
    .insert(analyses)
    .values({ audioId, analysis })
    .onConflictDoUpdate({ target: analyses.audioId, set: { analysis } });
}

/** What was measured of a recording, by whatever version. */
export async function keptAnalysis(audioId: string): Promise<RecordingAnalysis | undefined> {
  const db = await database();
  return (await db.select().from(analyses).where(eq(analyses.audioId, audioId)))[0]?.analysis;
}

/**
 * One page of a recording's samples: planar 32-bit floats, little endian.
 * @throws OrvidError `not-found` for a page beyond the end
 */
export async function readPage(audioId: string, page: number): Promise<Uint8Array> {
  const row = await findAudio(audioId);
  const frames = row ? Math.min(PAGE_FRAMES, row.lengthFrames - page * PAGE_FRAMES) : 0;
  if (!row || frames <= 0) throw new OrvidError('not-found', 'There is no such page of a recording.');
  const file = await open(pagesPath(audioId), 'r');
  try {
    const bytes = new Uint8Array(frames * row.channels * 4);
    const { bytesRead } = await file.read(bytes, 0, bytes.length, page * PAGE_FRAMES * row.channels * 4);
    if (bytesRead < bytes.length)
      throw new OrvidError('internal', 'A recording in the store is shorter than it should be.');
    return bytes;
  } finally {
    await file.close();
  }
}
