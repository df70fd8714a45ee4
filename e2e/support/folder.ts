import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';

/** A new folder for temporary files, gone with the process that asked for it. @param name what its own name begins with */
export function temporaryFolder(name: string): string {
  const folder = mkdtempSync(path.join(os.tmpdir(), `${name}-`));
  process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
  return folder;
}
