import { isAiff } from './aiff';
import { readAiffNotes } from './aiff-notes';
import type { ReadAt, RecordingNotes } from './recording-notes';
import { readWavNotes } from './wav-notes';

/** Markers, time reference and names of channels, as far as the format of a file has them. @param size of the file, bytes */
export async function readFileNotes(readAt: ReadAt, size: number): Promise<RecordingNotes> {
  return isAiff(await readAt(0, 12)) ? readAiffNotes(readAt, size) : readWavNotes(readAt, size);
}
