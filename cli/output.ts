import { lstat, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { randomUUID } from 'node:crypto';
import { OrvidError } from '@/core/errors';

/** Where relative paths begin: the folder that the command was called from, not the project's. */
export function resolvePath(file: string): string {
  return path.resolve(process.env.INIT_CWD ?? process.cwd(), file);
}

/** Only a plain file is ever replaced. @throws OrvidError `invalid-input` for a folder, a device, a pipe or a link */
export async function refuseOddOutput(file: string): Promise<void> {
  const found = await lstat(file).catch(() => null);
  if (!found || found.isFile()) return;
  const what = found.isDirectory() ? 'a folder' : found.isSymbolicLink() ? 'a link' : 'no plain file';
  throw new OrvidError(
    'invalid-input',
    `${path.basename(file)} is ${what}, and is not replaced.`,
    'Nothing was written.',
  );
}

/**
 * Lets `write` make a file under a temporary name beside its place, and puts it there when it is whole. A file of that name is
 * replaced; when `write` fails, it stays as it was.
 * @throws OrvidError as {@link refuseOddOutput} does
 */
export async function wholeOrNothing<T>(file: string, write: (temporary: string) => Promise<T>): Promise<T> {
  await refuseOddOutput(file);
  const temporary = path.join(path.dirname(file), `.${path.basename(file)}.${randomUUID()}`);
  try {
    const result = await write(temporary);
    await rename(temporary, file);
    return result;
  } finally {
    await rm(temporary, { force: true });
  }
}
