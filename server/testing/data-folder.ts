import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';

/**
 * A data folder for one test file. Call it before the server's modules are used: they read their settings once.
 * @returns the folder; it is removed after the tests
 */
export function ownDataFolder(): string {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-test-'));
  process.env.ORVID_DATA_DIR = folder;
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  return folder;
}
