import { expect, type APIRequestContext, type Locator, type Page } from '@playwright/test';
import { firstEqualizer, type Band, type Song } from '@/core/song';
import { goWithin, isAt } from './within';

/** The server may just be closing the connection that an earlier request has left open. */
export const AGAIN = { maxRetries: 2 };

/** A copy of the demo song of one's own. @returns its id */
export async function copyOfDemo(request: APIRequestContext): Promise<string> {
  const response = await request.post('/api/songs/lantern-ferry/duplicate', AGAIN);
  return ((await response.json()) as { id: string }).id;
}

export async function emptySong(request: APIRequestContext, title: string, rateHz = 48000): Promise<string> {
  const response = await request.post('/api/songs', { data: { title, rateHz }, ...AGAIN });
  return ((await response.json()) as { id: string }).id;
}

/** Opens a song and waits until it is there to be worked with. Errors of the page fail the test. */
export async function openSong(page: Page, songId: string): Promise<void> {
  page.on('pageerror', (error) => {
    throw error;
  });
  const to = `/songs/${songId}`;
  if (isAt(page, /^\/songs$/)) await goWithin(page, to);
  else await page.goto(to);
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
}

/** The song as the server has it, once the page says that everything is saved. */
export async function savedSong(page: Page, songId: string): Promise<Song> {
  await expect(page.getByText(/^Saved, revision \d+$/)).toBeVisible();
  const response = await page.request.get(`/api/songs/${songId}`, AGAIN);
  return ((await response.json()) as { song: Song }).song;
}

export const bandsOf = (song: Song, trackId: string): Band[] =>
  firstEqualizer(song.tracks.find((track) => track.id === trackId)!)!.bands;

/** Drags an element by its middle, in steps as a hand does. */
export async function drag(page: Page, handle: Locator, dx: number, dy: number, key?: 'Alt' | 'Shift'): Promise<void> {
  const box = (await handle.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  if (key) await page.keyboard.down(key);
  await page.mouse.down();
  for (let i = 1; i <= 6; i++) await page.mouse.move(x + (dx * i) / 6, y + (dy * i) / 6);
  // Moves are taken once a frame.
  await page.waitForTimeout(40);
  await page.mouse.up();
  if (key) await page.keyboard.up(key);
}

/** Presses a key several times in quick succession, as one holds it: without waiting for what the page makes of it. */
export const pressQuickly = (page: Page, key: string, times: number) =>
  Promise.all(Array.from({ length: times }, () => page.keyboard.press(key)));

/** The song plays: its position changes, wherever in the loop a slow machine first sees it. */
export async function expectTimeGoesOn(page: Page): Promise<void> {
  const position = () => page.getByTestId('position').textContent();
  for (let changes = 0; changes < 4; changes++) {
    const before = await position();
    await expect.poll(position).not.toBe(before);
  }
}

/** Undoes until the song is as it was. */
export async function undoAll(page: Page, steps: number): Promise<void> {
  for (let i = 0; i < steps; i++) await page.keyboard.press('Control+z');
}

/** Drops files on the middle of the page, as a hand does that drags them in from elsewhere, and sees that they may be dropped there. */
export async function dropFiles(page: Page, files: string[]): Promise<void> {
  const { width, height } = page.viewportSize()!;
  const session = await page.context().newCDPSession(page);
  const move = (type: 'dragEnter' | 'dragOver' | 'drop') =>
    session.send('Input.dispatchDragEvent', {
      type,
      x: width / 2,
      y: height / 2,
      data: { items: [], files, dragOperationsMask: 1 },
    });
  await expect(async () => {
    await move('dragEnter');
    await move('dragOver');
    await expect(page.getByText('Drop them here')).toBeVisible({ timeout: 1000 });
  }).toPass();
  const dropped = await page.evaluateHandle(() => ({
    files: new Promise<number>((resolve) => {
      addEventListener('drop', (event) => resolve(event.dataTransfer!.files.length), { once: true, capture: true });
      setTimeout(resolve, 20_000, 0);
    }),
  }));
  await move('drop');
  expect(await dropped.evaluate(({ files }) => files)).toBe(files.length);
  await session.detach();
}

/** Ticks a box, or takes its tick away, by a click on its line: the input itself is out of sight. */
export const tick = (checkbox: Locator) => checkbox.locator('xpath=ancestor::label').click();
