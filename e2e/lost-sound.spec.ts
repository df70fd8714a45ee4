import { readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { Song } from '@/core/song';
import { newDataFolder } from './support/environment';
import { OwnServer } from './support/own-server';
import { expectTimeGoesOn } from './support/song';
import { expect, test } from './support/test';

/** Sound that is lost while it plays: the server is gone, a recording is. */

// One server for both, the second time without a recording.
test.describe.configure({ mode: 'serial' });

const data = newDataFolder();
const server = new OwnServer(4874, data);
test.beforeAll(() => server.start());
test.afterAll(() => server.kill());

test('a server that dies and comes back is said; the song plays on, and what was missing comes', async ({ page }) => {
  // Sound is slow to come, so that most of it is missing when the server dies; what the picture asks for waits until it is dead.
  let isDead = () => {};
  const death = new Promise<void>((done) => (isDead = done));
  let isHeld = false;
  await page.route('**/pages/*', async (route) => {
    await (isHeld ? death : new Promise((done) => setTimeout(done, 150)));
    await route.continue().catch(() => undefined);
  });
  await page.goto(`${server.url}/songs/lantern-ferry`);
  await page.getByRole('button', { name: /^Loop/ }).click();
  await page.keyboard.press('Space');
  await expect(page.getByText(/loading sound \d+ %/)).toBeVisible();
  isHeld = true;
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Add to the chain: gate');
  await page.keyboard.press('Enter');
  const picture = page.getByTestId('processor-field');
  await expect(picture).toBeVisible();
  server.kill();
  isDead();
  await expect(page.getByText('The server cannot be reached; changes wait here').first()).toBeVisible();
  await expect(picture.getByText(/^The sound could not be looked at/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
  await server.start();
  await page.unrouteAll({ behavior: 'ignoreErrors' });
  await expect(page.getByText(/loading sound/)).toBeHidden();
  await expect(page.getByText(/^Saved, revision \d+$/)).toBeVisible();
  await expect(picture).toHaveAttribute('data-observed', 'true');
  await expect(picture.getByText(/^The sound could not be looked at/)).toHaveCount(0);
});

test('a recording that was deleted from the disk is named; it is silent, and everything else plays', async ({
  page,
}) => {
  const { song } = (await (await page.request.get(`${server.url}/api/songs/lantern-ferry`)).json()) as { song: Song };
  const [lost] = song.tracks;
  rmSync(path.join(data, 'audio', 'pages', lost.audioId));
  // Its pages alone would be made anew from the file that it came from.
  rmSync(path.join(data, 'audio', 'originals'), { recursive: true });
  await page.goto(`${server.url}/songs/lantern-ferry`);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(
    page.getByText(`Some of the sound could not be loaded: “${lost.name}.wav”: its recording is missing.`),
  ).toBeVisible();
  await expect(page.getByTestId('mix-peak')).toHaveText(/peak −\d/);
  await expect(page.getByTestId('engine-load')).toHaveText(
    /too late (once|\d+ times): the server did not give some of it/,
  );
  await expectTimeGoesOn(page);
  // The log says why, in its file.
  const log = readFileSync(path.join(data, 'log', 'orvid.log'), 'utf8');
  expect(log).toMatch(/ENOENT.*pages could not be opened/);
});
