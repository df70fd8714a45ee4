import { readFile, writeFile } from 'node:fs/promises';
import { OrvidError } from '@/core/errors';
import { crc32Text } from './checksum';
import { discard, settle, temporaryPath } from './store';

/** Files with a first line that tells their length and checksum, so that one that was damaged is known. */
const HEAD = /^orvid-sealed 1 ([0-9a-f]{8}) (\d+)\n/;

export async function writeSealed(file: string, content: Uint8Array): Promise<void> {
  const temporary = await temporaryPath();
  try {
    const head = `orvid-sealed 1 ${crc32Text(content)} ${content.length}\n`;
    await writeFile(temporary, Buffer.concat([Buffer.from(head), content]), { flag: 'wx' });
    await settle(temporary, file);
  } finally {
    await discard(temporary);
  }
}

const measuredDamaged = () => new OrvidError('damaged', 'A file of what was measured is damaged.');

/** @returns what was written; undefined where there is no such file. @throws OrvidError `damaged` */
export async function readSealed(file: string): Promise<Uint8Array | undefined> {
  let bytes: Buffer;
  try {
    bytes = await readFile(file);
  } catch (thrown) {
    const { code } = thrown as NodeJS.ErrnoException;
    if (code === 'ENOENT') return undefined;
    if (code === 'EIO') throw measuredDamaged();
    throw thrown;
  }
  const head = HEAD.exec(bytes.subarray(0, 64).toString('latin1'));
  const content = bytes.subarray(head?.[0].length ?? 0);
  if (!head || content.length !== Number(head[2]) || crc32Text(content) !== head[1]) throw measuredDamaged();
  return content;
}

/** What was measured, or undefined where it has to be measured (again). */
export const readIfWhole = (file: string): Promise<Uint8Array | undefined> =>
  readSealed(file).catch((thrown: OrvidError) => {
    if (thrown.code === 'damaged') return undefined;
    throw thrown;
  });
