import { readFileSync } from 'node:fs';
import path from 'node:path';
import { expectNotesOfAnyDamage, notesIn } from './testing/notes';

const word = (value: number) => [24, 16, 8, 0].map((by) => (value >> by) & 255);
const letters = (value: string) => [...new TextEncoder().encode(value)];
const chunk = (id: string, body: number[]) => [
  ...letters(id),
  ...word(body.length),
  ...body,
  ...(body.length % 2 ? [0] : []),
];
/** 44 100 Hz as a number of 80 bits, as the specification of AIFF writes it out. */
const RATE = [0x40, 0x0e, 0xac, 0x44, 0, 0, 0, 0, 0, 0];
const COMMON = chunk('COMM', [0, 1, ...word(4), 0, 16, ...RATE]);
const SOUND = chunk('SSND', [...word(0), ...word(0), 1, 2, 3]);
const marks = (points: readonly [id: number, frame: number, name: string][]) =>
  chunk('MARK', [
    0,
    points.length,
    ...points.flatMap(([id, frame, name]) => {
      const text = letters(name);
      return [0, id, ...word(frame), text.length, ...text, ...(text.length % 2 ? [] : [0])];
    }),
  ]);
const aiff = (...chunks: number[][]) => {
  const body = [...letters('AIFF'), ...chunks.flat()];
  return Uint8Array.from([...letters('FORM'), ...word(body.length), ...body]);
};
const read = async (bytes: Uint8Array) => (await notesIn(bytes)).markers;

test('markers are read with their names, of an odd and an even number of letters, in their order in time', async () => {
  const file = aiff(
    COMMON,
    SOUND,
    marks([
      [1, 88200, 'Refrain'],
      [2, 22050, 'Vers'],
      [3, 44100, 'Brücke'],
      [4, 132300, ''],
    ]),
  );
  expect(await read(file)).toEqual([
    { name: 'Vers', seconds: 0.5 },
    { name: 'Brücke', seconds: 1 },
    { name: 'Refrain', seconds: 2 },
    { name: 'Marker 4', seconds: 3 },
  ]);
});

// Python's module aifc: fixtures/make_marked_aiff.py.
test('markers that another program has written are read', async () => {
  expect(await read(new Uint8Array(readFileSync(path.join(__dirname, 'fixtures', 'marked.aiff'))))).toEqual([
    { name: 'Verse', seconds: 0.5 },
    { name: 'Bridge', seconds: 1 },
    { name: 'Refrain', seconds: 2 },
  ]);
});

test('files without markers, without a rate, or of another kind have none', async () => {
  expect(await read(aiff(COMMON, SOUND))).toEqual([]);
  expect(await read(aiff(marks([[1, 10, 'A']])))).toEqual([]);
  expect(await read(Uint8Array.from(letters('FORM....8SVX and so on')))).toEqual([]);
});

test('what is cut off anywhere, or written over, is read as far as it goes (seed 6)', async () => {
  const whole = aiff(
    COMMON,
    marks([
      [1, 10, 'A'],
      [2, 20, 'Bridge'],
    ]),
    SOUND,
  );
  await expectNotesOfAnyDamage(whole, 6);
});
