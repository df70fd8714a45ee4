import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { PcmEncoder, wavHeader } from '@/core/formats';
import { ownDataFolder } from '../testing/data-folder';
import { decodeRecording } from './decode-recording';

const mockSaid: { bits?: 16 | 24 } = {};
jest.mock('../audio/decode', () => {
  const real = jest.requireActual<typeof import('../audio/decode')>('../audio/decode');
  return {
    withDecodedAudio: (file: string, use: (audio: object) => unknown) =>
      real.withDecodedAudio(file, async (audio) => use({ ...audio, ...mockSaid })),
  };
});

const folder = ownDataFolder();
const SAMPLES = Float64Array.from({ length: 1000 }, (_, n) => 0.4 * Math.sin(n / 7));

/** A recording of a format, decoded at a rate: its pages as they lie in the file, and what is told of them. */
async function decoded(name: string, format: '16' | '24' | '32f', rateHz = 48000) {
  const source = path.join(folder, `${name}.wav`);
  const pages = path.join(folder, `${name}.pages`);
  const header = wavHeader({ channels: 1, rateHz: 48000, format, frames: SAMPLES.length });
  writeFileSync(source, Buffer.concat([header, new PcmEncoder(1, format).encode([SAMPLES], SAMPLES.length)]));
  const facts = await decodeRecording({ source, pages, fileName: name, rateHz }, () => undefined);
  return { facts, bytes: readFileSync(pages), file: readFileSync(source).subarray(header.length) };
}

test.each(['16', '24', '32f'] as const)('pages of a recording of %s bit hold the bytes of its file', async (format) => {
  const { facts, bytes, file } = await decoded(`of-${format}`, format);
  expect(facts).toMatchObject({ lengthFrames: 1000, sampleBits: parseInt(format, 10) });
  expect(bytes.equals(file)).toBe(true);
});

test('what is brought to another rate is kept as floats', async () => {
  const { facts, bytes } = await decoded('converted', '16', 96000);
  expect(facts).toMatchObject({ lengthFrames: 2000, sampleBits: 32 });
  expect(bytes.length).toBe(8000);
});

test('of a file that says it has fewer bits than it has nothing is rounded', async () => {
  mockSaid.bits = 16;
  const { facts, bytes, file } = await decoded('lying', '32f').finally(() => delete mockSaid.bits);
  expect(facts.sampleBits).toBe(32);
  expect(bytes.equals(file)).toBe(true);
});
