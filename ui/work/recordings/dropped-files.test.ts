/** @jest-environment jsdom */
import type { DirectoryDropItem, DropItem, FileDropItem } from 'react-aria-components';
import { droppedFiles } from './dropped-files';

const file = (name: string): FileDropItem => ({
  kind: 'file',
  type: '',
  name,
  getFile: () => Promise.resolve(new File([], name)),
  getText: () => Promise.resolve(''),
});
function folder(name: string, entries: (FileDropItem | DirectoryDropItem)[]): DirectoryDropItem {
  async function* getEntries() {
    yield* entries;
  }
  return { kind: 'directory', name, getEntries };
}
const dropped = async (...items: DropItem[]) => {
  const { files, foldersWithout } = await droppedFiles(items);
  return { names: files.map(({ name }) => name), foldersWithout };
};

test('files come as they are, of folders the recordings in them, however deep', async () => {
  const stems = folder('Stems', [
    file('Kick.WAV'),
    file('.hidden.wav'),
    file('session.xml'),
    file('cover.png'),
    folder('Voices', [file('Lead.flac'), folder('Harmonies', [file('High.aif')])]),
  ]);
  expect(await dropped(file('notes.txt'), stems)).toEqual({
    names: ['notes.txt', 'Kick.WAV', 'Lead.flac', 'High.aif'],
    foldersWithout: [],
  });
});

test('folders without recordings are named, and one that cannot be read', async () => {
  const locked: DirectoryDropItem = {
    kind: 'directory',
    name: 'Locked',
    getEntries: () => {
      throw new DOMException('denied', 'NotAllowedError');
    },
  };
  expect(await dropped(folder('Pictures', [file('a.png')]), folder('Empty', []), locked)).toEqual({
    names: [],
    foldersWithout: ['Pictures', 'Empty', 'Locked'],
  });
});

test('a folder that was dropped by mistake is not looked through for ever', async () => {
  let asked = 0;
  const endless = (): DirectoryDropItem => ({
    kind: 'directory',
    name: 'Endless',
    getEntries: async function* () {
      for (;;) {
        asked++;
        yield endless();
      }
    },
  });
  expect((await dropped(endless())).foldersWithout).toEqual(['Endless']);
  expect(asked).toBeLessThan(10_000);
});
