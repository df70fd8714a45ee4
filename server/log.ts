import { createWriteStream, existsSync, mkdirSync, renameSync, statSync, type WriteStream } from 'node:fs';
import path from 'node:path';
import pino from 'pino';
import { singleton } from './singleton';

const LARGEST_BYTES = 4 * 2 ** 20;
const FILES_KEPT = 3;

const OPENED_AGAIN_AFTER_MS = 10_000;

/** The file of the log; the framework loads this module more than once, and all of them write to the same one. */
const target = singleton('log-file', () => ({
  path: undefined as string | undefined,
  stream: null as WriteStream | null,
  bytes: 0,
  failedAt: 0,
}));

/** Moves full files on: orvid.log, orvid.1.log, orvid.2.log. */
function rotate(at: string): void {
  const older = (i: number) => at.replace(/\.log$/, `.${i}.log`);
  for (let i = FILES_KEPT - 2; i >= 1; i--) if (existsSync(older(i))) renameSync(older(i), older(i + 1));
  if (existsSync(at)) renameSync(at, older(1));
}

function openStream(at: string): void {
  mkdirSync(path.dirname(at), { recursive: true });
  const bytes = existsSync(at) ? statSync(at).size : 0;
  if (bytes > LARGEST_BYTES) rotate(at);
  const stream = createWriteStream(at, { flags: 'a' });
  // A full disk must not end the server: the terminal tells all until the file can be written again.
  stream.on('error', () => {
    if (target.stream === stream) Object.assign(target, { stream: null, failedAt: Date.now() });
  });
  Object.assign(target, { path: at, stream, bytes: bytes > LARGEST_BYTES ? 0 : bytes });
}

function tryToOpen(at: string): void {
  try {
    openStream(at);
  } catch {
    Object.assign(target, { stream: null, failedAt: Date.now() });
  }
}

/** The file that lines go to now; one that failed is opened again after a while. */
function openedStream(): WriteStream | null {
  if (!target.stream && target.path && Date.now() - target.failedAt > OPENED_AGAIN_AFTER_MS) tryToOpen(target.path);
  return target.stream;
}

/** A line of the log: to its file, and of errors a word to the terminal. Without a file all goes to the terminal. */
function write(line: string): void {
  const stream = openedStream();
  if (!stream) {
    process.stderr.write(line);
    return;
  }
  stream.write(line);
  target.bytes += line.length;
  const { level, msg, error } = JSON.parse(line) as { level: number; msg: string; error?: { message?: string } };
  if (level >= 50)
    console.error(`Error: ${[msg, error?.message].filter(Boolean).join(': ')} (${target.path} has more)`);
  if (target.bytes > LARGEST_BYTES) {
    stream.end();
    tryToOpen(target.path!);
  }
}

export const log = pino(
  { level: process.env.ORVID_LOG ?? 'warn', serializers: { error: pino.stdSerializers.err } },
  { write },
);

/** Writes the log to a file from now on. */
export function openLogFile(at: string): void {
  if (log.level === 'silent') return;
  openStream(at);
}

/** Where a person finds it; undefined where it goes to the terminal. */
export const logFile = (): string | undefined => (target.stream ? target.path : undefined);
