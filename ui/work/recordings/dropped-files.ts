import { isDirectoryDropItem, isFileDropItem, type DirectoryDropItem, type DropItem } from 'react-aria-components';
import { OrvidError } from '@/core/errors';
import { MOST_TRACKS } from '@/core/song';
import { AUDIO_FILES } from './audio-files';

/** So many entries are looked at: what is dropped by mistake may have any number. */
const MOST_LOOKED_AT = 5000;

/** Other files lie in folders too: those of the program that recorded, pictures, what the system hides. */
const isRecording = (name: string) =>
  !name.startsWith('.') && AUDIO_FILES.some((ending) => name.toLowerCase().endsWith(ending));

/**
 * The files that were dropped; of folders the recordings in them, however deep they lie.
 * @returns also, in words, what is wrong with folders of which nothing is taken, or with what holds no file at all
 */
export async function droppedFiles(items: readonly DropItem[]): Promise<{ files: File[]; faults: string[] }> {
  const files = await Promise.all(items.filter(isFileDropItem).map((item) => item.getFile()));
  const faults: string[] = [];
  for (const folder of items.filter(isDirectoryDropItem))
    try {
      files.push(...(await recordingsIn(folder)));
    } catch (thrown) {
      faults.push(
        thrown instanceof OrvidError
          ? thrown.message
          : `The folder “${folder.name}” could not be read: nothing of it came in.`,
      );
    }
  if (files.length === 0 && faults.length === 0)
    faults.push('No file came with what was dropped: nothing came in. Choose the recordings, or drop them as files.');
  return { files, faults };
}

/** @throws OrvidError `invalid-input` where there are none, or more than a song can have */
async function recordingsIn(folder: DirectoryDropItem): Promise<File[]> {
  const files: File[] = [];
  const left = [folder];
  let lookedAt = 0;
  for (let next = left.shift(); next; next = left.shift())
    for await (const entry of next.getEntries()) {
      if (isDirectoryDropItem(entry)) left.push(entry);
      else if (isRecording(entry.name)) files.push(await entry.getFile());
      if (++lookedAt > MOST_LOOKED_AT || files.length > MOST_TRACKS)
        throw new OrvidError(
          'invalid-input',
          `The folder “${folder.name}” holds more than ${files.length > MOST_TRACKS ? `${MOST_TRACKS} recordings` : `${MOST_LOOKED_AT} files`}: drop the one with the recordings of this song.`,
        );
    }
  if (files.length === 0)
    throw new OrvidError(
      'invalid-input',
      `No recording was found in the folder “${folder.name}”: WAV, AIFF, FLAC, MP3, Ogg Vorbis or Opus.`,
    );
  return files;
}
