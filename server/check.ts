import { existsSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import path from 'node:path';
import { isNull } from 'drizzle-orm';
import { PAGE_FRAMES } from '@/core/engine';
import { asOrvidError } from '@/core/errors';
import { crc32Text, fileHash } from './audio/checksum';
import { readAnalysis, readBandLevels, readWaveform } from './audio/measured';
import { faultOf, mendRecording, readPage } from './audio/mending';
import { readSealed } from './audio/sealed';
import { keepWritten, measuredPaths, originalPath, pagesPath, type AudioRow } from './audio/store';
import { config } from './config';
import { openDatabase } from './database/client';
import { audio, songs } from './database/schema';
import { loadSong } from './songs/store';

/** What was found of one thing, as a sentence. */
export interface Finding {
  state: 'mended' | 'damaged' | 'remark';
  text: string;
}

export interface CheckedFolder {
  songs: number;
  recordings: number;
  findings: Finding[];
}

/** Looks a whole data folder through, and mends what can be mended. @param tell hears what is looked at */
export async function checkFolder(tell: (line: string) => void = () => undefined): Promise<CheckedFolder> {
  const { client, database: db } = await openDatabase();
  const findings: Finding[] = [];
  const find = (state: Finding['state'], text: string) => findings.push({ state, text });

  tell('The database …');
  const { rows } = await client.execute('PRAGMA integrity_check');
  for (const row of rows)
    if (Object.values(row)[0] !== 'ok') find('damaged', `The database: ${String(Object.values(row)[0])}.`);

  const recordings = await db.select().from(audio);
  const known = new Set(recordings.map(({ id }) => id));
  const wanted = await db.select({ id: songs.id, title: songs.title }).from(songs).where(isNull(songs.deletedAt));
  for (const { id, title } of wanted) {
    tell(`The song “${title}” …`);
    try {
      const { song } = await loadSong(id);
      for (const track of song.tracks)
        if (!known.has(track.audioId))
          find('damaged', `“${title}”: the recording of “${track.name}” is not in the store.`);
    } catch (thrown) {
      find('damaged', `“${title}”: ${asOrvidError(thrown).message}`);
    }
  }
  for (const row of recordings) {
    tell(`The recording “${row.originalName}” …`);
    await checkRecording(row, find);
  }
  const orphans = (await readdir(path.dirname(pagesPath('0'.repeat(64)))).catch(() => [])).filter(
    (id) => !known.has(id),
  );
  if (orphans.length > 0)
    find('remark', `${orphans.length} recordings in ${path.join(config().dataDir, 'audio')} are not in the database.`);
  return { songs: wanted.length, recordings: recordings.length, findings };
}

async function checkRecording(row: AudioRow, find: (state: Finding['state'], text: string) => void): Promise<void> {
  const original = originalPath(row.originalHash);
  if (!existsSync(original))
    find('remark', `“${row.originalName}”: the file that it came from is missing; it plays all the same.`);
  else if ((await fileHash(original)) !== row.originalHash)
    find('damaged', `“${row.originalName}”: the file that it came from is damaged; it plays all the same.`);
  try {
    const fault = await faultOf(row);
    if (fault && (await mendRecording(row.id))) find('mended', `${fault.message} It was made anew.`);
    // Of recordings of older versions the checksums are taken now.
    if (row.pageChecksums === null && !fault)
      await keepWritten(row.id, { pageChecksums: await checksumsOf(row), sampleBits: row.sampleBits });
    const files = measuredPaths(row.id);
    const isMeasured = (await Promise.all(files.map(isWhole))).every(Boolean);
    await readAnalysis(row.id);
    await readBandLevels(row.id);
    await readWaveform(row.id);
    if (!isMeasured) find('mended', `“${row.originalName}” was measured again.`);
  } catch (thrown) {
    const { message, kept } = asOrvidError(thrown);
    find('damaged', [message, kept].filter(Boolean).join(' '));
  }
}

const isWhole = (file: string) =>
  readSealed(file).then(
    (content) => content !== undefined,
    () => false,
  );

async function checksumsOf(row: AudioRow): Promise<string> {
  let checksums = '';
  for (let page = 0; page * PAGE_FRAMES < row.lengthFrames; page++)
    checksums += crc32Text(await readPage(row.id, page));
  return checksums;
}
