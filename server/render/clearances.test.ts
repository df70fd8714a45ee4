import { seededRandom } from '@/core/formats';
import { SPECTRUM_BANDS } from '@/core/measure';
import { emptySong, newProcessor, newTrack, type Song } from '@/core/song';
import { clearancesOf } from './clearances';

const RATE = 48000;
const SECONDS = 300;
const track = (digit: string) => ({
  ...newTrack(
    { audioId: digit.repeat(64), channels: 1, lengthFrames: SECONDS * RATE },
    { id: digit, name: digit, ink: 0 },
  ),
  claims: [{ lowHz: 200, highHz: 2000 }],
});
const song: Song = { ...emptySong('Long'), tracks: [track('a'), track('b')] };

/** Levels that change from step to step, the first recording's more than the other's. */
async function read(audioId: string): Promise<Uint8Array> {
  const random = seededRandom(audioId.charCodeAt(0));
  const levels = new Uint8Array(SECONDS * 20 * SPECTRUM_BANDS);
  for (let at = 0; at < levels.length; at += SPECTRUM_BANDS)
    levels.fill(audioId.startsWith('a') ? 100 + 120 * random() : 160 + 20 * random(), at, at + SPECTRUM_BANDS);
  return Promise.resolve(levels);
}

// A page is given rows of four steps of five minutes; of single steps the median over time would be another.
test('a long song is measured in rows as long as those of a page, and estimates are marked', async () => {
  const found = await clearancesOf(song, read);
  const averaged = async (audioId: string) => {
    const levels = await read(audioId);
    const powers = (step: number) => 10 ** (levels[step * SPECTRUM_BANDS] / 20);
    for (let step = 0; step < levels.length / SPECTRUM_BANDS; step += 4) {
      const mean = (powers(step) + powers(step + 1) + powers(step + 2) + powers(step + 3)) / 4;
      levels.fill(Math.round(20 * Math.log10(mean)), step * SPECTRUM_BANDS, (step + 4) * SPECTRUM_BANDS);
    }
    return levels;
  };
  const asInPage = await clearancesOf(song, averaged);
  for (const id of ['a', 'b']) {
    expect(Math.abs(found[id]!.clearanceDb - asInPage[id]!.clearanceDb)).toBeLessThan(0.3);
    expect(found[id]!.isEstimated).toBe(false);
  }
  const gated = { ...song, tracks: [{ ...song.tracks[0], chain: [newProcessor('gate', 'g')] }, song.tracks[1]] };
  expect((await clearancesOf(gated, read)).a!.isEstimated).toBe(true);
});
