import { isAiff, readExtended } from './aiff';
import { chunksOf, markersAt, MOST_MARKERS, NO_NOTES, type ReadAt, type RecordingNotes } from './recording-notes';

/** Where a format chunk has its sample rate, bytes, and how long that is. */
const RATE_AT = 8;
const RATE_BYTES = 10;

/**
 * Markers of an AIFF or AIFF-C file; nothing of what is none. The sound itself is not read.
 * Source: Apple, “Audio Interchange File Format: AIFF”, version 1.3 (1989): chunks `COMM` and `MARK`.
 * @param size of the file, bytes
 */
export async function readAiffNotes(readAt: ReadAt, size: number): Promise<RecordingNotes> {
  if (!isAiff(await readAt(0, 12))) return NO_NOTES;
  let rateHz = 0;
  let points: { frame: number; name: string }[] = [];
  for await (const { name, body, view } of chunksOf(readAt, size, { names: ['COMM', 'MARK'], isLittleEndian: false }))
    if (name === 'MARK') points = markedFrames(body, view);
    else if (body.length >= RATE_AT + RATE_BYTES) rateHz = readExtended(view, RATE_AT);
  if (!(rateHz >= 1)) return NO_NOTES;
  return { ...NO_NOTES, rateHz, markers: markersAt(points, rateHz) };
}

/** Places by their names, which have their length before them, and a byte more where the two would be an odd number of bytes. */
function markedFrames(body: Uint8Array, view: DataView): { frame: number; name: string }[] {
  const found: { frame: number; name: string }[] = [];
  const count = body.length < 2 ? 0 : Math.min(MOST_MARKERS, view.getUint16(0));
  for (let at = 2; found.length < count && at + 7 <= body.length;) {
    const letters = body[at + 6];
    const name = new TextDecoder('utf-8').decode(body.subarray(at + 7, at + 7 + letters)).trim();
    found.push({ frame: view.getUint32(at + 2), name });
    at += 7 + letters + ((letters + 1) % 2);
  }
  return found;
}
