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
  const { files, faults } = await droppedFiles(items);
  return { names: files.map(({ name }) => name), faults };
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
    faults: [],
  });
});

/** A folder that fails when it is looked into, after some files. */
function locked(name: string, entries: FileDropItem[]): DirectoryDropItem {
  async function* getEntries() {
    yield* entries;
    throw new DOMException('denied', 'NotAllowedError');
  }
  return { kind: 'directory', name, getEntries };
}

test('folders without recordings are named, and one that cannot be read; what else was dropped comes in', async () => {
  const good = folder('Good', [file('Bass.wav')]);
  expect(
    await dropped(folder('Pictures', [file('a.png')]), locked('Locked', [file('Half.wav')]), good, folder('Empty', [])),
  ).toEqual({
    names: ['Bass.wav'],
    faults: [
      'No recording was found in the folder “Pictures”: WAV, AIFF, FLAC, MP3, Ogg Vorbis or Opus.',
      'The folder “Locked” could not be read: nothing of it came in.',
      'No recording was found in the folder “Empty”: WAV, AIFF, FLAC, MP3, Ogg Vorbis or Opus.',
    ],
  });
});

test('of a folder that holds more than a song can have nothing is taken, and it is said', async () => {
  const many = (count: number, ending: string) => Array.from({ length: count }, (_, i) => file(`${i}${ending}`));
  expect((await dropped(folder('Song', many(200, '.wav')))).names).toHaveLength(200);
  expect(await dropped(folder('Music', many(201, '.wav')))).toEqual({
    names: [],
    faults: ['The folder “Music” holds more than 200 recordings: drop the one with the recordings of this song.'],
  });
  expect(await dropped(folder('Home', many(6000, '.txt')))).toEqual({
    names: [],
    faults: ['The folder “Home” holds more than 5000 files: drop the one with the recordings of this song.'],
  });
});

test('what holds no file, as a picture out of another page, is not passed over in silence', async () => {
  const text: DropItem = { kind: 'text', types: new Set(['text/plain']), getText: () => Promise.resolve('a word') };
  for (const items of [[], [text]])
    expect(await dropped(...items)).toEqual({
      names: [],
      faults: [expect.stringContaining('No file came with what was dropped')],
    });
});
