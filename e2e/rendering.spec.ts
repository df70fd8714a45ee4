import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { temporaryFolder } from './support/folder';
import { expect, test } from './support/test';
import { DATA_DIR } from './support/environment';
import { copyOfDemo, openSong, savedSong } from './support/song';

const folder = temporaryFolder('orvid-renders');

for (const [format, bits] of [
  ['WAV, 24 bit', '24'],
  ['WAV, 16 bit, dithered', '16'],
  ['WAV, 32-bit float', '32f'],
] as const) {
  test(`the mix as ${format}: what the page renders is what the command line renders, byte for byte`, async ({
    page,
    request,
  }) => {
    const songId = await copyOfDemo(request);
    await openSong(page, songId);
    await page.keyboard.press('Shift+O');
    await savedSong(page, songId);
    await page.getByRole('button', { name: 'Render…' }).click();
    if (bits !== '24') {
      await page.getByRole('button', { name: /Kind of file/ }).click();
      await page.getByRole('option', { name: format }).click();
    }
    const started = Date.now();
    await page.getByRole('button', { name: 'Render', exact: true }).click();
    const link = page.getByRole('link', { name: /^Lantern-Ferry.*-mix\.wav/ });
    await expect(link).toBeVisible();
    expect(Date.now() - started).toBeLessThan(42_000);
    const download = page.waitForEvent('download');
    await link.click();
    const fromPage = path.join(folder, `page-${bits}.wav`);
    await (await download).saveAs(fromPage);
    const fromCommand = path.join(folder, `command-${bits}.wav`);
    execFileSync(
      process.execPath,
      ['scripts/orvid.mjs', 'render', songId, fromCommand, '--bits', bits, '--tail', '12'],
      { env: { ...process.env, ORVID_DATA_DIR: DATA_DIR } },
    );
    expect(readFileSync(fromPage).equals(readFileSync(fromCommand))).toBe(true);
    expect(readFileSync(fromPage).length).toBeGreaterThan(42 * 48000 * 2 * 2);
  });
}

test('a render can be cancelled', async ({ page, request }) => {
  await openSong(page, await copyOfDemo(request));
  await page.getByRole('button', { name: 'Render…' }).click();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await page.getByRole('button', { name: /^Cancel Lantern-Ferry/ }).click();
  await expect(page.getByText('It was cancelled. Nothing of it was kept.')).toBeVisible();
});
