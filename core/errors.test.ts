import { asOrvidError, isOfDisk, isOfStorage, OrvidError, type ErrorCode } from './errors';

const thrownWith = (code: string, cause?: unknown) => Object.assign(new Error(`${code}: failed`), { code, cause });

test.each<[string, ErrorCode]>([
  ['ENOSPC', 'disk-full'],
  ['EDQUOT', 'disk-full'],
  ['SQLITE_FULL', 'disk-full'],
  ['EIO', 'disk-failing'],
  ['SQLITE_IOERR_FSYNC', 'disk-failing'],
  ['EROFS', 'unwritable'],
  ['SQLITE_CORRUPT', 'database-damaged'],
  ['EISDIR', 'internal'],
])('what the system or SQLite calls %s is told as %s, also where it caused another error', (code, told) => {
  for (const thrown of [
    thrownWith(code),
    new Error('could not be kept', { cause: thrownWith('E1', thrownWith(code)) }),
  ]) {
    const error = asOrvidError(thrown);
    expect(error.code).toBe(told);
    expect(isOfStorage(error)).toBe(true);
    expect(isOfDisk(error)).toBe(['disk-full', 'disk-failing', 'unwritable'].includes(told));
  }
});

test('what is at fault by itself is none of the disk', () => {
  const error = new OrvidError('unreadable-audio', 'it is a text');
  expect(asOrvidError(error)).toBe(error);
  expect([isOfDisk(error), isOfStorage(error)]).toEqual([false, false]);
});
