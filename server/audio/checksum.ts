import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { crc32 } from 'node:zlib';

/** A CRC-32 (IEEE 802.3, as in PNG and gzip) as eight hexadecimal digits: tells a file that was damaged, not one that was forged. */
export const crc32Text = (data: Uint8Array | string): string => crc32(data).toString(16).padStart(8, '0');

/** Digits of one checksum. */
export const CHECKSUM_DIGITS = 8;

/** SHA-256 of a file. */
export async function fileHash(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(file)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

/** The name of a recording at a rate: the same file in songs of two rates is two sets of pages. */
export const recordingIdOf = (originalHash: string, rateHz: number): string =>
  createHash('sha256').update(`${originalHash}@${rateHz}`).digest('hex');
