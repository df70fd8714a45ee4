import { existsSync, mkdirSync, readFileSync, rmdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ownDataFolder } from './testing/data-folder';

type LogModule = typeof import('./log');

const folder = ownDataFolder();

/** The module as the framework loads it anew for another part of the server, with its log switched on. */
function loaded(): LogModule {
  const before = process.env.ORVID_LOG;
  process.env.ORVID_LOG = 'warn';
  let found: LogModule | undefined;
  jest.isolateModules(() => (found = jest.requireActual<LogModule>('./log')));
  process.env.ORVID_LOG = before;
  return found!;
}

async function written(file: string, text: string): Promise<void> {
  for (let tries = 0; tries < 100; tries++) {
    if (existsSync(file) && readFileSync(file, 'utf8').includes(text)) return;
    await wait(20);
  }
  throw new Error(`“${text}” is not in ${file}`);
}

let terminal: jest.SpyInstance;
let errors: jest.SpyInstance;
beforeEach(() => {
  terminal = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
  errors = jest.spyOn(console, 'error').mockReturnValue(undefined);
});
afterEach(() => jest.restoreAllMocks());

test('what any part of the server logs is in the one file, whose name is told, and an error has a word on the terminal', async () => {
  const file = path.join(folder, 'log', 'orvid.log');
  const [start, routes] = [loaded(), loaded()];
  expect(start).not.toBe(routes);
  start.openLogFile(file);
  expect(routes.logFile()).toBe(file);
  routes.log.error({ error: new Error('no such tape') }, 'request failed');
  await written(file, 'no such tape');
  expect(errors.mock.calls).toEqual([[`Error: request failed: no such tape (${file} has more)`]]);
  expect(terminal).not.toHaveBeenCalled();
});

test('a file that cannot be written is told on the terminal, and written again once it can be', async () => {
  const { openLogFile, logFile, log } = loaded();
  const file = path.join(folder, 'blocked', 'orvid.log');
  mkdirSync(file, { recursive: true });
  openLogFile(file);
  while (logFile()) await wait(5);
  log.error('while it fails');
  expect(terminal).toHaveBeenCalledWith(expect.stringContaining('while it fails'));
  rmdirSync(file);
  const now = Date.now();
  jest.spyOn(Date, 'now').mockImplementation(() => now + 60_000);
  log.error('afterwards');
  await written(file, 'afterwards');
  expect(logFile()).toBe(file);
});

test('a full file is put aside', async () => {
  const { openLogFile, log } = loaded();
  const file = path.join(folder, 'full', 'orvid.log');
  mkdirSync(path.dirname(file));
  writeFileSync(file, 'x'.repeat(4 * 2 ** 20 + 1));
  openLogFile(file);
  log.warn('a new page');
  await written(file, 'a new page');
  expect(readFileSync(file, 'utf8')).not.toContain('xxx');
  expect(readFileSync(file.replace('.log', '.1.log'), 'utf8')).toHaveLength(4 * 2 ** 20 + 1);
});
