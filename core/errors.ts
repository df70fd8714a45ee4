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

const isOfFullDisk = (thrown: unknown): boolean => {
  const { code, cause } = (thrown ?? {}) as { code?: string; cause?: unknown };
  return /ENOSPC|EDQUOT|SQLITE_FULL/.test(`${code}`) || (cause !== undefined && isOfFullDisk(cause));
};

/** The sentence and the code of anything that was thrown. */
export function asOrvidError(thrown: unknown): OrvidError {
  if (thrown instanceof OrvidError) return thrown;
  if (isOfFullDisk(thrown))
    return new OrvidError(
      'disk-full',
      'The disk is full: nothing more can be written.',
      'What was saved is kept. Make room, then do it again.',
    );
  return new OrvidError('internal', thrown instanceof Error ? thrown.message : String(thrown));
}
