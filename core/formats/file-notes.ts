import { isAiff } from './aiff';
import { readAiffNotes } from './aiff-notes';
import { readFlacNotes } from './flac-notes';
import { asciiText, type ReadAt, type RecordingNotes } from './recording-notes';
import { readWavNotes } from './wav-notes';

/** Sample rate, markers, time reference and names of channels, as far as the format of a file has them. @param size of the file, bytes */
export async function readFileNotes(readAt: ReadAt, size: number): Promise<RecordingNotes> {
  const head = await readAt(0, 12);
  if (isAiff(head)) return readAiffNotes(readAt, size);
  return asciiText(head, 0, 4) === 'fLaC' ? readFlacNotes(readAt) : readWavNotes(readAt, size);
}
