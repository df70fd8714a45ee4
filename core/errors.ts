/** What kind of refusal it is; the interface and the server decide by it how to show it. */
export type ErrorCode =
  | 'invalid-input'
  | 'not-found'
  | 'unreadable-audio'
  | 'too-large'
  | 'forbidden'
  | 'conflict'
  | 'damaged'
  | 'cancelled'
  | 'disk-full'
  | 'unwritable'
  | 'disk-failing'
  | 'database-damaged'
  | 'internal';

/**
 * The one type of error that people see. `message` is a sentence that names what is wrong and what to do;
 * `kept` says what was kept, where something could have been lost.
 */
export class OrvidError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly kept?: string,
  ) {
    super(message);
    this.name = 'OrvidError';
  }

  toJSON() {
    return { code: this.code, message: this.message, kept: this.kept };
  }
}

/** What the codes of the system and of SQLite mean to people. */
const FAULTS: readonly (readonly [codes: RegExp, code: ErrorCode, message: string, kept: string])[] = [
  [
    /ENOSPC|EDQUOT|SQLITE_FULL/,
    'disk-full',
    'The disk is full: nothing more can be written.',
    'What was saved is kept. Make room, then do it again.',
  ],
  [
    /EIO|SQLITE_IOERR/,
    'disk-failing',
    'The disk reports an error: something on it could not be read or written.',
    'What was saved before is kept as far as the disk can be read. Make a backup onto another disk.',
  ],
  [
    /EROFS|SQLITE_READONLY/,
    'unwritable',
    'The data folder cannot be written to.',
    'What was saved is kept. Make the folder and its files writable, then do it again.',
  ],
  [
    /SQLITE_CORRUPT|SQLITE_NOTADB/,
    'database-damaged',
    'The database is damaged.',
    'The recordings are kept. Stop Orvid, bring back a copy (npm run orvid -- restore FILE; daily ones lie in the folder backups), and start it again.',
  ],
];

/** The code of an error, and those of what caused it. */
function codesOf(thrown: unknown): string {
  const { code, cause } = (thrown ?? {}) as { code?: string; cause?: unknown };
  return `${code ?? ''} ${cause === undefined ? '' : codesOf(cause)}`;
}

/** The sentence and the code of anything that was thrown. */
export function asOrvidError(thrown: unknown): OrvidError {
  if (thrown instanceof OrvidError) return thrown;
  const codes = codesOf(thrown);
  const fault = FAULTS.find(([known]) => known.test(codes));
  if (fault) return new OrvidError(fault[1], fault[2], fault[3]);
  return new OrvidError('internal', thrown instanceof Error ? thrown.message : String(thrown));
}

/** True where a disk could not be written, or read: what was being done is not at fault. */
export const isOfDisk = ({ code }: Pick<OrvidError, 'code'>): boolean =>
  ['disk-full', 'disk-failing', 'unwritable'].includes(code);

/** True where not the request is at fault but where it should have been written: done again later, it may well be taken. */
export const isOfStorage = ({ code }: Pick<OrvidError, 'code'>): boolean =>
  isOfDisk({ code }) || ['internal', 'database-damaged'].includes(code);
