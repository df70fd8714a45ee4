import { mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';

/** What the tests of the interface run on. */
export const PORT = 4871;
export const CHROMIUM = process.env.ORVID_CHROMIUM ?? '/usr/bin/chromium';
export const CHROMIUM_FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--autoplay-policy=no-user-gesture-required',
];

/** One data folder for a whole run: workers find it in the environment. */
export const DATA_DIR = (process.env.ORVID_TEST_DATA_DIR ??= mkdtempSync(path.join(os.tmpdir(), 'orvid-e2e-')));

export function serverEnvironment(port: number, dataDir = DATA_DIR): Record<string, string> & NodeJS.ProcessEnv {
  const own = { ORVID_PORT: String(port), ORVID_DATA_DIR: dataDir, NEXT_TELEMETRY_DISABLED: '1' };
  return { ...process.env, ...own } as Record<string, string> & NodeJS.ProcessEnv;
}
