import { existsSync, readFileSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import { PAGE_FRAMES, PIECE_FRAMES, PIECES_OF_PAGE, unpackSamples } from '@/core/engine';
import { PcmEncoder, wavHeader } from '@/core/formats';
import { receiveUpload, startImport } from '../import/import-track';
import { findJob, jobsEnded } from '../jobs/jobs';
import { plainOrder } from '@/core/renders';
import { startRenders } from '../render/render-job';
import { measureSongPart } from '../render/measure-song';
import { createEmptySong, loadSong } from '../songs/store';
import { ownDataFolder } from '../testing/data-folder';
import { readAnalysis, readBandLevels } from './measured';
import { readPage, readPages, readPieces } from './mending';
import { analysisPath, bandLevelsPath, findAudio, keepWritten, originalPath, pagesPath, suspectsPath } from './store';
import { readSuspects } from './suspects';

ownDataFolder();
const SECONDS = 4;
/** Of a sample in its pages: the recordings here have 24 bits. */
const SAMPLE_BYTES = 3;

/** A song with one recording, a tone of a pitch on each side, that lies in the store. */
async function recorded(
  hz: number,
  { frames = SECONDS * 48000, right }: { frames?: number; right?: number } = {},
): Promise<{ songId: string; audioId: string; original: string }> {
  const tone = (pitch: number) =>
    Float64Array.from({ length: frames }, (_, n) => 0.25 * Math.sin((2 * Math.PI * pitch * n) / 48000));
  const sides = [hz, ...(right === undefined ? [] : [right])].map(tone);
  const wav = Buffer.concat([
    wavHeader({ channels: sides.length, rateHz: 48000, format: '24', frames }),
    new PcmEncoder(sides.length, '24').encode(sides, frames),
  ]);
  const { id } = await createEmptySong(`At ${hz} Hz`, 48000);
  const upload = await receiveUpload(new Response(wav).body, 'Cello.wav');
  await startImport(id, upload, 'Cello.wav');
  await jobsEnded();
  const { audioId } = (await loadSong(id)).song.tracks[0];
  return { songId: id, audioId, original: originalPath((await findAudio(audioId))!.originalHash) };
}

/** One bit of the second page is turned over. */
function damage(file: string, at = (PAGE_FRAMES + 100) * SAMPLE_BYTES): void {
  const bytes = readFileSync(file);
  bytes[at] ^= 1;
  writeFileSync(file, bytes);
}

/** A file that opens, and of which the system reports an error of the device (EIO) when it is read: address 0 of a process is nowhere. */
function unreadable(file: string): void {
  rmSync(file);
  symlinkSync('/proc/self/mem', file);
}

async function rendered(songId: string) {
  const [{ id }] = await startRenders(songId, plainOrder);
  await jobsEnded();
  return findJob(id);
}

test.each([
  ['one bit is turned over', (file: string) => damage(file)],
  ['it is cut short', (file: string) => truncateSync(file, PAGE_FRAMES * SAMPLE_BYTES + 10)],
  ['it is emptied', (file: string) => truncateSync(file, 0)],
  ['it is gone', (file: string) => rmSync(file)],
  ['the disk cannot read it', unreadable],
])('pages of which %s are made anew from the original, unasked: read, rendered, measured', async (what, harm) => {
  const { songId, audioId } = await recorded(200 + what.length);
  const whole = readFileSync(pagesPath(audioId));
  const page = await readPage(audioId, 1);
  harm(pagesPath(audioId));
  expect(await readPage(audioId, 1)).toEqual(page);
  expect(readFileSync(pagesPath(audioId)).equals(whole)).toBe(true);
  harm(pagesPath(audioId));
  expect(await rendered(songId)).toMatchObject({ state: 'done' });
  harm(pagesPath(audioId));
  const signal = new AbortController().signal;
  expect((await measureSongPart(songId, 'master', {}, signal)).truePeakDbtp).toBeCloseTo(-15, 0);
  expect(readFileSync(pagesPath(audioId)).equals(whole)).toBe(true);
});

test('pieces of a page are its samples, one after the other, each with all channels; what is beyond the end, or in two pages, is refused', async () => {
  const length = PAGE_FRAMES + PIECE_FRAMES + 500;
  const { audioId } = await recorded(270, { frames: length, right: 410 });
  const samples: Float32Array[] = [0, 1].map(() => new Float32Array(length));
  for (const page of [0, 1]) {
    const bytes = await readPage(audioId, page);
    const unpacked = new Float32Array(bytes.length / SAMPLE_BYTES);
    unpackSamples(bytes, 24, unpacked);
    const frames = unpacked.length / 2;
    samples.forEach((side, c) => side.set(unpacked.subarray(c * frames, (c + 1) * frames), page * PAGE_FRAMES));
  }
  const piece = (number: number) =>
    samples.map((side) => [...side.subarray(number * PIECE_FRAMES, (number + 1) * PIECE_FRAMES)]);
  const read = async (...runs: [number, number][]) => {
    const { bytes, bits, tag } = await readPieces(runs.map(([first, last]) => ({ audioId, first, last })));
    const unpacked = new Float32Array(bytes.length / SAMPLE_BYTES);
    unpackSamples(bytes, 24, unpacked);
    return { samples: [...unpacked], bits, tag };
  };
  const last = PIECES_OF_PAGE + 1;
  const some = await read([2, 3], [PIECES_OF_PAGE, last], [0, 0]);
  expect(some.samples).toEqual([2, 3, PIECES_OF_PAGE, last, 0].flatMap(piece).flat());
  expect(some.bits).toEqual([24, 24, 24]);
  expect((await read([2, 2], [PIECES_OF_PAGE, last], [0, 0])).tag).not.toBe(some.tag);
  await expect(read([last, last + 1])).rejects.toMatchObject({ code: 'not-found' });
  await expect(read([2 * PIECES_OF_PAGE, 2 * PIECES_OF_PAGE])).rejects.toMatchObject({ code: 'not-found' });
  await expect(read([PIECES_OF_PAGE - 1, PIECES_OF_PAGE])).rejects.toMatchObject({ code: 'invalid-input' });
  await expect(read([3, 2])).rejects.toMatchObject({ code: 'invalid-input' });
});

test('a recording that an older version has written, as floats, is read as it lies there, and made anew as new ones are', async () => {
  const { audioId } = await recorded(880);
  const file = pagesPath(audioId);
  const whole = readFileSync(file);
  const samples = new Float32Array(whole.length / SAMPLE_BYTES);
  unpackSamples(whole, 24, samples);
  writeFileSync(file, new Uint8Array(samples.buffer));
  await keepWritten(audioId, { pageChecksums: null, sampleBits: 32 });
  const names = [{ audioId, page: 0 }];
  expect(await readPages(names)).toMatchObject({
    bits: [32],
    bytes: [new Uint8Array(samples.buffer, 0, 4 * PAGE_FRAMES)],
  });
  truncateSync(file, 100);
  expect((await readPages(names)).bits).toEqual([24]);
  expect(readFileSync(file).equals(whole)).toBe(true);
});

test('where the original is gone too, the recording and the place are named, and nothing false is rendered or measured', async () => {
  const { songId, audioId, original } = await recorded(330);
  damage(pagesPath(audioId));
  rmSync(original);
  const message = expect.stringContaining('“Cello.wav”: its recording is damaged from 0:01.3');
  await expect(readPage(audioId, 1)).rejects.toMatchObject({ code: 'damaged', message });
  expect((await readPage(audioId, 0)).length).toBe(PAGE_FRAMES * SAMPLE_BYTES);
  expect(await rendered(songId)).toMatchObject({ state: 'failed', error: { code: 'damaged', message } });
  await expect(measureSongPart(songId, 'master', {}, new AbortController().signal)).rejects.toMatchObject({ message });
  rmSync(bandLevelsPath(audioId));
  await expect(readBandLevels(audioId)).rejects.toMatchObject({ message });
  await expect(readSuspects(audioId)).rejects.toMatchObject({ message });
  expect(existsSync(suspectsPath(audioId))).toBe(false);
});

test('what was measured is measured again where its file is damaged', async () => {
  const { audioId } = await recorded(440);
  const [levels, analysis, suspects] = [
    await readBandLevels(audioId),
    await readAnalysis(audioId),
    await readSuspects(audioId),
  ];
  damage(bandLevelsPath(audioId), 200);
  expect(await readBandLevels(audioId)).toEqual(levels);
  unreadable(bandLevelsPath(audioId));
  expect(await readBandLevels(audioId)).toEqual(levels);
  truncateSync(suspectsPath(audioId), 5);
  expect(await readSuspects(audioId)).toEqual(suspects);
  damage(analysisPath(audioId), 100);
  expect(await readAnalysis(audioId)).toEqual(analysis);
});
