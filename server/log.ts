import { createWriteStream, existsSync, mkdirSync, renameSync, statSync, type WriteStream } from 'node:fs';
import path from 'node:path';
import pino from 'pino';

const LARGEST_BYTES = 4 * 2 ** 20;
const FILES_KEPT = 3;

let file: { path: string; stream: WriteStream; bytes: number } | null = null;

/** Moves full files on: orvid.log, orvid.1.log, orvid.2.log. */
function rotate(at: string): void {
  const older = (i: number) => at.replace(/\.log$/, `.${i}.log`);
  for (let i = FILES_KEPT - 2; i >= 1; i--) if (existsSync(older(i))) renameSync(older(i), older(i + 1));
  if (existsSync(at)) renameSync(at, older(1));
}

function openStream(at: string): void {
  const bytes = existsSync(at) ? statSync(at).size : 0;
  if (bytes > LARGEST_BYTES) rotate(at);
  const stream = createWriteStream(at, { flags: 'a' });
  // A full disk must not end the server; the terminal still tells.
  stream.on('error', () => (file = null));
  file = { path: at, stream, bytes: bytes > LARGEST_BYTES ? 0 : bytes };
}

/** A line of the log: to its file, and of errors a word to the terminal. Without a file all goes to the terminal. */
function write(line: string): void {
  if (!file) {
    process.stderr.write(line);
    return;
  }
  file.stream.write(line);
  file.bytes += line.length;
  const { level, msg, error } = JSON.parse(line) as { level: number; msg: string; error?: { message?: string } };
  if (level >= 50) console.error(`Error: ${[msg, error?.message].filter(Boolean).join(': ')} (${file.path} has more)`);
  if (file.bytes > LARGEST_BYTES) {
    file.stream.end();
    openStream(file.path);
  }
}

export const log = pino(
  { level: process.env.ORVID_LOG ?? 'warn', serializers: { error: pino.stdSerializers.err } },
  { write },
);

/** Writes the log to a file from now on. */
export function openLogFile(at: string): void {
  if (log.level === 'silent') return;
  mkdirSync(path.dirname(at), { recursive: true });
  openStream(at);
}

/** Where a person finds it; undefined where it goes to the terminal. */
export const logFile = (): string | undefined => file?.path;
