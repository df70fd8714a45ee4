import { isDirectoryDropItem, isFileDropItem, type DirectoryDropItem, type DropItem } from 'react-aria-components';
import { AUDIO_FILES } from './audio-files';

/** A folder of recordings has fewer files; what is dropped by mistake may have any number. */
const MOST_LOOKED_AT = 5000;

/** Other files lie in folders too: those of the program that recorded, pictures, what the system hides. */
const isRecording = (name: string) =>
  !name.startsWith('.') && AUDIO_FILES.some((ending) => name.toLowerCase().endsWith(ending));

/**
 * The files that were dropped; of folders the recordings in them, however deep they lie.
 * @returns also the names of folders in which there are none, or which cannot be read
 */
export async function droppedFiles(
  items: readonly DropItem[],
): Promise<{ files: File[]; foldersWithout: readonly string[] }> {
  const files = await Promise.all(items.filter(isFileDropItem).map((item) => item.getFile()));
  const foldersWithout: string[] = [];
  for (const folder of items.filter(isDirectoryDropItem)) {
    const found = await recordingsIn(folder).catch(() => []);
    if (found.length === 0) foldersWithout.push(folder.name);
    files.push(...found);
  }
  return { files, foldersWithout };
}

async function recordingsIn(folder: DirectoryDropItem): Promise<File[]> {
  const files: File[] = [];
  const left = [folder];
  let lookedAt = 0;
  for (let next = left.shift(); next && lookedAt < MOST_LOOKED_AT; next = left.shift())
    for await (const entry of next.getEntries()) {
      if (++lookedAt > MOST_LOOKED_AT) break;
      if (isDirectoryDropItem(entry)) left.push(entry);
      else if (isRecording(entry.name)) files.push(await entry.getFile());
    }
  return files;
}
