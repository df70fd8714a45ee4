import { rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { randomUUID } from 'node:crypto';

/** Where relative paths begin: the folder that the command was called from, not the project's. */
export function resolvePath(file: string): string {
  return path.resolve(process.env.INIT_CWD ?? process.cwd(), file);
}

/**
 * Lets `write` make a file under a temporary name beside its place, and puts it there when it is whole. A file of that name is
 * replaced; when `write` fails, it stays as it was.
 */
export async function wholeOrNothing<T>(file: string, write: (temporary: string) => Promise<T>): Promise<T> {
  const temporary = path.join(path.dirname(file), `.${path.basename(file)}.${randomUUID()}`);
  try {
    const result = await write(temporary);
    await rename(temporary, file);
    return result;
  } finally {
    await rm(temporary, { force: true });
  }
}
