import { recentPage } from './recent-pages';
import { freshPages } from './page-file';

const PAGE_BYTES = 2 ** 19;
const file = (path: string, checksums: string | null) => ({ ...freshPages(path, path, 48000, 24), checksums });
let reads: string[] = [];
const read = (name: string) => () => {
  reads.push(name);
  return Promise.resolve(new Uint8Array(PAGE_BYTES));
};
beforeEach(() => {
  reads = [];
});

test('a page is read once while it is asked for; written anew, or of a file without checksums, it is read again', async () => {
  const [cello, other] = [file('cello', '0000000100000002'), file('other', null)];
  for (let i = 0; i < 3; i++) {
    await recentPage(cello, 0, read('cello 0'));
    await recentPage(cello, 1, read('cello 1'));
    await recentPage(other, 0, read('other 0'));
  }
  await recentPage(file('cello', '0000000300000002'), 0, read('cello 0 anew'));
  expect(reads).toEqual(['cello 0', 'cello 1', 'other 0', 'other 0', 'other 0', 'cello 0 anew']);
});

test('what was asked for longest ago gives way: 32 MiB are kept', async () => {
  const ask = (page: number) => recentPage(file('long', '0'.repeat(8 * 100)), page, read(`${page}`));
  for (let page = 0; page < 64; page++) await ask(page);
  await ask(0);
  await ask(64);
  await ask(0);
  await ask(1);
  expect(reads).toEqual([...Array.from({ length: 64 }, (_, page) => `${page}`), '64', '1']);
});

test('a page that cannot be read is asked for again', async () => {
  const bad = file('bad', '00000009');
  await expect(recentPage(bad, 0, () => Promise.reject(new Error('gone')))).rejects.toThrow('gone');
  await recentPage(bad, 0, read('bad 0'));
  expect(reads).toEqual(['bad 0']);
});
