import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { commonRate } from './recording-notes';
import { wavTags } from './sound-tags';
import { expectNotesOfAnyDamage, notesIn } from './testing/notes';
import { startsOf } from './wav-notes';

const word = (value: number) => [0, 8, 16, 24].map((by) => (value >> by) & 255);
const letters = (value: string) => [...value].map((letter) => letter.charCodeAt(0));
const chunk = (name: string, body: number[]) => [
  ...letters(name),
  ...word(body.length),
  ...body,
  ...(body.length % 2 ? [0] : []),
];
const format = (rateHz: number) => chunk('fmt ', [1, 0, 1, 0, ...word(rateHz), ...word(2 * rateHz), 2, 0, 16, 0]);
const cue = (points: readonly [id: number, frame: number][]) =>
  chunk('cue ', [
    ...word(points.length),
    ...points.flatMap(([id, frame]) => [
      ...word(id),
      ...word(frame),
      ...letters('data'),
      ...word(0),
      ...word(0),
      ...word(frame),
    ]),
  ]);
const label = (id: number, name: string) => chunk('labl', [...word(id), ...letters(name), 0]);
const wav = (...chunks: number[][]) => {
  const body = [...letters('WAVE'), ...chunks.flat()];
  return Uint8Array.from([...letters('RIFF'), ...word(body.length), ...body]);
};
const read = async (bytes: Uint8Array) => (await notesIn(bytes)).markers;

test('cue points are read with their labels, behind the samples too, in their order in time', async () => {
  const file = wav(
    format(48000),
    chunk('data', [1, 2, 3]),
    cue([
      [2, 96000],
      [1, 24000],
    ]),
    chunk('LIST', [...letters('adtl'), ...label(1, 'Verse'), ...label(2, 'Refrain')]),
  );
  expect(await read(file)).toEqual([
    { name: 'Verse', seconds: 0.5 },
    { name: 'Refrain', seconds: 2 },
  ]);
});

test('points without labels are numbered; files without points, or that are none, have none', async () => {
  expect(await read(wav(format(44100), cue([[7, 44100]])))).toEqual([{ name: 'Marker 1', seconds: 1 }]);
  expect(await read(wav(format(44100), chunk('data', [])))).toEqual([]);
  expect(await read(Uint8Array.from(letters('OggS and so on, long enough')))).toEqual([]);
  expect(await read(new Uint8Array(0))).toEqual([]);
});

test('the rate is read, of FLAC files too (RFC 9639, 8.2)', async () => {
  expect((await notesIn(wav(format(44100)))).rateHz).toBe(44100);
  expect((await notesIn(wav(chunk('data', [])))).rateHz).toBeNull();
  // The first bytes of what `sox -n -r 88200 -b 16 -c 1 a.flac synth 0.1 sine 440` writes.
  const flac = [...letters('fLaC'), 0, 0, 0, 34, 16, 0, 16, 0, 0, 1, 0x3f, 0, 5, 0xf3, 0x15, 0x88, 0x80, 0xf0];
  expect((await notesIn(Uint8Array.from(flac))).rateHz).toBe(88200);
  expect((await notesIn(Uint8Array.from(flac.slice(0, 21)))).rateHz).toBeNull();
});

test.each([
  [[44100, 44100], 44100],
  [[44100, null], 44100],
  [[44100, 48000], null],
  [[null, null], null],
  [[], null],
  [[22050, 22050], null],
])('the rate that recordings have in common, where a song can have it: %j', (rates, common) => {
  expect(commonRate(rates)).toBe(common);
});

test('what is cut off anywhere, or written over, is read as far as it goes (seed 6)', async () => {
  const whole = wav(
    format(48000),
    cue([[1, 10]]),
    chunk('LIST', [...letters('adtl'), ...label(1, 'A')]),
    chunk('data', [0, 0]),
  );
  await expectNotesOfAnyDamage(whole, 6);
});

test('a file whose sound another program has written keeps its points when they are added to it', async () => {
  const folder = mkdtempSync(path.join(tmpdir(), 'orvid-markers-'));
  try {
    const file = path.join(folder, 'tone.wav');
    execFileSync('sox', ['-n', '-r', '44100', '-b', '16', file, 'synth', '1', 'sine', '440']);
    const bytes = readFileSync(file);
    const points = Uint8Array.from(cue([[1, 22050]]));
    writeFileSync(file, Buffer.concat([bytes, points]));
    expect(await read(new Uint8Array(readFileSync(file)))).toEqual([{ name: 'Marker 1', seconds: 0.5 }]);
  } finally {
    rmSync(folder, { recursive: true });
  }
});

const ixml = (xml: string) => chunk('iXML', letters(xml));

test('a time reference is read where it is written, also beyond 32 bit', async () => {
  const tags = { title: '', song: '', part: '', why: '', changedAt: '', startFrame: 48000 * 36000 * 24 };
  const file = wav(format(48000), [...wavTags(tags, null)], chunk('data', [0, 0]));
  expect((await notesIn(file)).timeReferenceSeconds).toBe(36000 * 24);
  expect((await notesIn(wav(format(48000), chunk('data', [])))).timeReferenceSeconds).toBeNull();
});

test('names of channels are read from iXML, by their places in the file', async () => {
  const track = (place: number, name: string) =>
    `<TRACK><CHANNEL_INDEX>${place + 4}</CHANNEL_INDEX><INTERLEAVE_INDEX>${place}</INTERLEAVE_INDEX><NAME>${name}</NAME></TRACK>`;
  const xml = `<?xml version="1.0"?><BWFXML><TRACK_LIST><TRACK_COUNT>3</TRACK_COUNT>${track(2, 'Low &amp; high')}${track(1, 'Kick')}${track(3, '')}</TRACK_LIST></BWFXML>`;
  expect((await notesIn(wav(format(48000), ixml(xml)))).channelNames).toEqual(['Kick', 'Low & high', '']);
  expect((await notesIn(wav(format(48000), ixml('<TRACK><NAME>')))).channelNames).toEqual([]);
});

test('files of one session begin where they were recorded, the earliest at the beginning', () => {
  expect(startsOf([36000, 36002.5, 36000])).toEqual([0, 2.5, 0]);
});

test('where one of them does not say it, or they are too far apart, all begin with the song; so does one alone', () => {
  expect(startsOf([36000, null])).toEqual([0, 0]);
  expect(startsOf([0, 36000])).toEqual([0, 0]);
  expect(startsOf([36000])).toEqual([0]);
  expect(startsOf([])).toEqual([]);
});
