import { execFileSync } from 'node:child_process';
import { cpSync } from 'node:fs';
import path from 'node:path';
import { temporaryFolder } from './folder';

/** What the tests of the interface run on. */
export const PORT = 4871;
export const BASE_URL = `http://localhost:${PORT}`;
export const CHROMIUM = process.env.ORVID_CHROMIUM ?? '/usr/bin/chromium';
export const CHROMIUM_FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--autoplay-policy=no-user-gesture-required',
];

/** The demo song as it was prepared for the tests. */
const DEMO_DATA = path.join('node_modules', '.orvid-demo-data');

/** A folder of data with the demo song in it, gone with the process that asked for it. */
export function newDataFolder(): string {
  const folder = temporaryFolder('orvid-e2e');
  cpSync(DEMO_DATA, folder, { recursive: true });
  return folder;
}

function prepared(): string {
  execFileSync(process.execPath, ['scripts/prepare-tests.mjs'], { stdio: ['ignore', 'inherit', 'inherit'] });
  return newDataFolder();
}

/** One data folder for a whole run: workers find it in the environment. */
export const DATA_DIR = (process.env.ORVID_TEST_DATA_DIR ??= prepared());

export function serverEnvironment(port: number, dataDir = DATA_DIR): Record<string, string> & NodeJS.ProcessEnv {
  const own = { ORVID_PORT: String(port), ORVID_DATA_DIR: dataDir, NEXT_TELEMETRY_DISABLED: '1' };
  return { ...process.env, ...own } as Record<string, string> & NodeJS.ProcessEnv;
}
