import { seededRandom } from '@/core/formats';
import { addRecording, monoWav } from './support/ear';
import { emptySong, openSong, savedSong } from './support/song';
import { expect, test } from './support/test';

/** A track that is silent for most of a song, as a solo or a choir that comes in late. */

const RATE = 48000;
const SECONDS = 64;
const BEGINS = 45;

/** A tune of six notes a second, without lows, that begins late; and thumps of 55 Hz in its pauses. */
function lateWav(): Buffer {
  const random = seededRandom(3);
  let hz = 440;
  let phase = 0;
  return monoWav(SECONDS * RATE, RATE, (n) => {
    if (n < BEGINS * RATE) return 0;
    const note = (n % (RATE / 6)) / RATE;
    if (note === 0) hz = 440 * 2 ** (Math.floor(random() * 14) / 12);
    phase += (2 * Math.PI * hz) / RATE;
    const tune = 0.2 * Math.exp(-note * 9) * (Math.sin(phase) + 0.4 * Math.sin(2 * phase) + 0.2 * Math.sin(3 * phase));
    // The first thump at 47 s, then one every four seconds.
    const thump = ((n / RATE - 47) % 4) + (n < 47 * RATE ? 4 : 0);
    return thump < 0.3 ? 0.12 * Math.exp(-thump / 0.05) * Math.sin(2 * Math.PI * 55 * thump) : tune;
  });
}

test('a track that comes in late is seen in the picture of a gate where it sounds, and one goes to its faults', async ({
  page,
  request,
}) => {
  const id = await emptySong(request, 'Late');
  await addRecording(request, id, 'Choir', lateWav());
  await openSong(page, id);
  await expect(page.getByRole('complementary', { name: 'Recordings that come in' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Choir', exact: true }).click();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Add to the chain: gate');
  await page.keyboard.press('Enter');
  const picture = page.getByTestId('processor-field');
  await expect(picture).toHaveAttribute('aria-label', 'Picture of the gate of Choir, 0:00.0 to 0:40.0');
  const silent = picture.getByRole('status');
  await expect(silent).toContainText('Silent from 0:00.0 to 0:40.0.');
  await page.getByRole('button', { name: 'From the recording' }).click();
  await expect(page.getByText(/^What the picture shows is about as loud all the time, or silent/)).toBeVisible();

  await silent.getByRole('button', { name: 'Go to where it sounds' }).click();
  // The song is shown to its end.
  const late = 'Picture of the gate of Choir, 0:24.0 to 1:04.0';
  await expect(picture).toHaveAttribute('aria-label', late);
  await expect(silent).toHaveCount(0);
  const threshold = page.getByRole('textbox', { name: 'Threshold', exact: true });
  await page.getByRole('button', { name: 'From the recording' }).click();
  await expect(threshold).not.toHaveValue('−90.0 dB');
  const { tracks } = await savedSong(page, id);
  expect(tracks[0].chain[1]).toMatchObject({ kind: 'gate' });

  // Back at the beginning one goes to a fault of it.
  await page.getByRole('button', { name: 'To the start of the loop' }).click();
  const position = page.getByRole('status', { name: 'Position' });
  await expect(position).toHaveText('0:00.0');
  await page.keyboard.press('Alt+8');
  const pops = page.getByRole('list', { name: 'Suspects, the surest first' }).getByRole('listitem', { name: /^Pops/ });
  await pops.getByRole('button', { name: /^Go to 0:46\.9: Pops and thumps, / }).click();
  await expect(position).toHaveText(/^0:46\.[3-6]$/);
  await expect(picture).toHaveAttribute('aria-label', late);
  await pops.getByRole('button', { name: /^Show why/ }).click();
  await expect(pops.getByRole('img', { name: /over time, from 0:4\d\.\d at the top to 1:/ })).toBeVisible();
});
