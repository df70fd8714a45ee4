import { PcmEncoder, wavHeader } from '@/core/formats';
import { receiveUpload, startImport } from '../import/import-track';
import { jobsEnded } from '../jobs/jobs';
import { createEmptySong, loadSong } from '../songs/store';
import { ownDataFolder } from '../testing/data-folder';
import { pictureOverTime } from './over-time';

ownDataFolder();
const RATE = 48000;
/** Four seconds, over several pages: 400 Hz, then 800 Hz. */
const SAMPLES = Float64Array.from(
  { length: 4 * RATE },
  (_, n) => 0.3 * Math.sin((2 * Math.PI * (n < 2 * RATE ? 400 : 800) * n) / RATE),
);
const signal = new AbortController().signal;

async function imported(): Promise<string> {
  const wav = Buffer.concat([
    wavHeader({ channels: 1, rateHz: RATE, format: '32f', frames: SAMPLES.length }),
    new PcmEncoder(1, '32f').encode([SAMPLES], SAMPLES.length),
  ]);
  const { id } = await createEmptySong('Pictured', RATE);
  await startImport(id, await receiveUpload(new Response(wav).body, 'tones.wav'), 'tones.wav');
  await jobsEnded();
  return (await loadSong(id)).song.tracks[0].audioId;
}

test('a stretch of a recording over time, from the middle of a page to beyond its end', async () => {
  const audioId = await imported();
  const size = { rows: 8, columns: 30 };
  const range = { lowHz: 200, highHz: 1600 };
  const picture = await pictureOverTime(audioId, { from: 20, to: 100 }, range, size, signal);
  const loudest = Array.from({ length: 8 }, (_, row) => {
    const levels = picture.subarray(30 * row, 30 * (row + 1));
    const most = Math.max(...levels);
    return most === 0 ? null : levels.indexOf(most);
  });
  // Half a second a row: an octave above 200 Hz, then two, then nothing.
  for (const column of loudest.slice(0, 2)) expect(Math.abs(column! - 10)).toBeLessThanOrEqual(1);
  for (const column of loudest.slice(3, 6)) expect(Math.abs(column! - 20)).toBeLessThanOrEqual(1);
  expect(loudest[7]).toBeNull();
});

test('what is no recording is refused in words', async () => {
  const asked = pictureOverTime(
    'ab'.repeat(32),
    { from: 0, to: 20 },
    { lowHz: 100, highHz: 200 },
    { rows: 8, columns: 8 },
    signal,
  );
  await expect(asked).rejects.toMatchObject({ code: 'not-found' });
});
