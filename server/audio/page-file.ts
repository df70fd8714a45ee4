import type { FileHandle } from 'node:fs/promises';
import { PAGE_FRAMES, packedBytes, type SampleBits } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import { writeTime } from '@/core/formats';
import { CHECKSUM_DIGITS, crc32Text } from './checksum';

/** The pages of a recording as a file, for threads that know no database. */
export interface PageFile {
  path: string;
  /** CRC-32 of each page; null where they are not known. */
  checksums: string | null;
  /** What messages call it. */
  name: string;
  rateHz: number;
  /** How its samples are written. */
  bits: SampleBits;
}

/** Pages that were written just now, and need not be checked. */
export const freshPages = (path: string, name: string, rateHz: number, bits: SampleBits = 32): PageFile => ({
  path,
  checksums: null,
  name,
  rateHz,
  bits,
});

/** Frames, and place in the file, of a page. */
export function pageExtent(page: number, channels: number, lengthFrames: number, bits: SampleBits) {
  const frames = Math.min(PAGE_FRAMES, lengthFrames - page * PAGE_FRAMES);
  return {
    frames,
    bytes: packedBytes(frames * channels, bits),
    offset: packedBytes(page * PAGE_FRAMES * channels, bits),
  };
}

/** The checksum of a page among those of its file. */
export const checksumOf = (checksums: string, page: number): string =>
  checksums.slice(page * CHECKSUM_DIGITS, (page + 1) * CHECKSUM_DIGITS);

/** @throws OrvidError `damaged` where a page is shorter, or other, than it was written */
export function checkPage(file: PageFile, page: number, bytes: Uint8Array, bytesRead: number): void {
  const wanted = file.checksums === null ? undefined : checksumOf(file.checksums, page);
  if (bytesRead === bytes.length && (wanted === undefined || crc32Text(bytes) === wanted)) return;
  throw new OrvidError(
    'damaged',
    `“${file.name}”: its recording is damaged from ${writeTime((page * PAGE_FRAMES) / file.rateHz)}.`,
  );
}

/** A disk that cannot read a place has read nothing of it. @throws what is no error of the disk */
export function nothingRead(thrown: unknown): number {
  if ((thrown as NodeJS.ErrnoException).code !== 'EIO') throw thrown;
  return 0;
}

/** The bytes of a page as they lie in its file. @throws OrvidError `damaged` */
export async function readPageBytes(
  handle: FileHandle,
  file: PageFile,
  page: number,
  { bytes: size, offset }: { bytes: number; offset: number },
): Promise<Uint8Array> {
  const bytes = new Uint8Array(size);
  const read = handle.read(bytes, 0, size, offset).then(({ bytesRead }) => bytesRead);
  checkPage(file, page, bytes, await read.catch(nothingRead));
  return bytes;
}

/** What is said of pages that cannot be opened. */
export const unopenable = (file: PageFile, thrown: unknown): OrvidError =>
  new OrvidError(
    'damaged',
    `“${file.name}”: its recording ${(thrown as NodeJS.ErrnoException).code === 'ENOENT' ? 'is missing' : 'cannot be opened'}.`,
  );
