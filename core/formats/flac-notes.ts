import { asciiText, NO_NOTES, type ReadAt, type RecordingNotes } from './recording-notes';

/** Where STREAMINFO has the sample rate, bytes from the beginning of the file; it is 20 bits long. */
const RATE_AT = 18;

/**
 * The sample rate of a FLAC file; nothing of what is none.
 * Source: RFC 9639, 8.2: the block `streaminfo`, which comes first.
 */
export async function readFlacNotes(readAt: ReadAt): Promise<RecordingNotes> {
  const head = await readAt(0, RATE_AT + 4);
  if (head.length < RATE_AT + 4 || asciiText(head, 0, 4) !== 'fLaC' || (head[4] & 0x7f) !== 0) return NO_NOTES;
  const rateHz = new DataView(head.buffer, head.byteOffset).getUint32(RATE_AT) >>> 12;
  return { ...NO_NOTES, rateHz: rateHz || null };
}
