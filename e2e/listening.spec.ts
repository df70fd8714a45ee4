import { songLengthFrames } from '@/core/song';
import { expect, test, type Page } from './support/test';
import { copyOfDemo, openSong, savedSong } from './support/song';

const seconds = async (page: Page) => {
  const [minutes, rest] = (await page.getByTestId('position').textContent())!.split(':');
  return Number(minutes) * 60 + Number(rest);
};
const peakDb = async (page: Page) => {
  const match = /peak (−?[\d.]+) dBFS/.exec((await page.getByTestId('mix-peak').textContent())!);
  return match ? Number(match[1].replace('−', '-')) : -Infinity;
};

test('the first page opens the demo song', async ({ page }) => {
  await page.goto('/');
  await expect(page).toHaveURL(/\/songs\/lantern-ferry$/);
  await expect(page.getByRole('textbox', { name: 'Title of the song' })).toHaveValue('Lantern Ferry');
  await expect(page.getByRole('group', { name: 'Lead voice', exact: true })).toBeVisible();
  await expect(page.getByText('12 tracks')).toBeVisible();
});

test('it plays: the position moves, the meter rises, the engine’s load is shown; it stops', async ({
  page,
  request,
}) => {
  await openSong(page, await copyOfDemo(request));
  await page.keyboard.press(' ');
  await expect.poll(() => seconds(page)).toBeGreaterThan(1);
  await expect.poll(() => peakDb(page)).toBeGreaterThan(-30);
  await expect(page.getByTestId('meter-lead-voice')).toHaveAttribute('style', /background-size: [1-9]\d%/);
  await expect(page.getByTestId('engine-load')).toHaveText(/engine \d+ %/);
  await page.getByRole('button', { name: 'Stop' }).click();
  const stoppedAt = await seconds(page);
  await page.waitForTimeout(400);
  expect(await seconds(page)).toBe(stoppedAt);
  await expect.poll(() => page.getByTestId('mix-peak').textContent()).toBe('silent');
});

test('mute silences, solo leaves one, both by key', async ({ page, request }) => {
  await openSong(page, await copyOfDemo(request));
  await page.getByRole('button', { name: 'Far bank' }).click();
  await page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true }).click();
  await page.keyboard.press('s');
  await page.keyboard.press(' ');
  await expect.poll(() => peakDb(page)).toBeGreaterThan(-40);
  await page.keyboard.press('m');
  await expect.poll(() => peakDb(page)).toBe(-Infinity);
  await expect(page.getByRole('button', { name: 'Mute Cello' })).toHaveAttribute('aria-pressed', 'true');
});

test('seek by click, by key and to the loop; the loop holds the position', async ({ page, request }) => {
  await openSong(page, await copyOfDemo(request));
  const strip = (await page.getByTestId('song-strip').boundingBox())!;
  await page.mouse.click(strip.x + strip.width / 3, strip.y + strip.height / 2);
  await expect.poll(() => seconds(page)).toBeCloseTo(14, 0);
  await page.getByRole('slider', { name: 'Position' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(() => seconds(page)).toBeCloseTo(15, 0);
  // A loop of two tenths, made by key from the one of the song.
  await page.getByRole('button', { name: 'Loop off' }).click();
  const end = page.getByRole('slider', { name: 'Loop end' });
  await end.focus();
  for (let i = 0; i < 9; i++) await page.keyboard.press('Alt+ArrowLeft');
  await page.keyboard.press('Home');
  await page.keyboard.press(' ');
  await page.waitForTimeout(2500);
  expect(await seconds(page)).toBeGreaterThanOrEqual(20);
  expect(await seconds(page)).toBeLessThanOrEqual(21.1);
});

test('the song strip shows a stretch: by wheel around the pointer, by key; the playhead is followed; Z goes to the loop and back', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  const strip = page.getByTestId('song-strip');
  const box = (await strip.boundingBox())!;
  const shown = page.getByText(/ shown$/);
  /** Seconds at the ends of what is shown. */
  const span = async () =>
    (await shown.textContent())!.match(/(\d+):([\d.]+)/g)!.map((time) => {
      const [minutes, rest] = time.split(':').map(Number);
      return 60 * minutes + rest;
    });
  await expect(shown).toHaveCount(0);
  const at = box.x + box.width / 4;
  await page.mouse.move(at, box.y + box.height / 2);
  const fine = page.waitForResponse((response) => response.url().includes('/waveforms?') && response.ok());
  for (let i = 0; i < 4; i++) await page.mouse.wheel(0, -120);
  await expect(shown).toBeVisible();
  await fine;
  // Twice as close twice; what was at the pointer is still there: a click goes to where it was.
  await expect
    .poll(async () => {
      const [from, to] = await span();
      return Math.abs(to - from - 42 / 4);
    })
    .toBeLessThan(0.5);
  const [from] = await span();
  await page.mouse.click(at, box.y + box.height / 2);
  await expect.poll(() => seconds(page)).toBe(10);
  await page.mouse.wheel(300, 0);
  await expect.poll(async () => (await span())[0]).toBeGreaterThan(from + 2);
  await page.keyboard.press(',');
  await expect.poll(async () => (await span())[0]).toBeLessThan(from);
  // The playhead brings what it reaches into sight.
  const position = page.getByRole('slider', { name: 'Position' });
  await position.focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect.poll(async () => (await span())[0]).toBeGreaterThan(15);
  await expect(position).toBeInViewport();
  await page.keyboard.press('z');
  await expect(shown).toHaveCount(0);
  await page.keyboard.press('z');
  const end = page.getByRole('slider', { name: 'Loop end' });
  await expect(shown).toBeVisible();
  const left = async (end: 'start' | 'end') =>
    (await page.getByRole('slider', { name: `Loop ${end}` }).boundingBox())!.x;
  await expect.poll(async () => (await left('end')) - (await left('start'))).toBeGreaterThan(0.85 * box.width);
  // What Tab reaches out of sight comes into sight, and so does what a key moves there; nothing else is shifted.
  for (let i = 0; i < 8; i++) await page.keyboard.press('+');
  await page.getByRole('slider', { name: 'Loop start' }).focus();
  await page.keyboard.press('Tab');
  await expect(end).toBeFocused();
  await expect(end).toBeInViewport();
  expect(await strip.evaluate((field) => field.scrollLeft)).toBe(0);
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('Alt+ArrowRight');
  await expect(end).toBeInViewport();
  // A part that is over where one looks, too.
  const first = strip.getByRole('button').first();
  await expect(first).not.toBeInViewport();
  await first.focus();
  await expect(first).toBeInViewport();
  await page.getByRole('button', { name: 'Whole song' }).click();
  await expect(shown).toHaveCount(0);

  // Where the song becomes twice as long, the loop is taken hold of where it lies now.
  const place = async () => ((await left('start')) - box.x) / box.width;
  const song = await savedSong(page, id);
  // It is laid out anew a moment after the words have changed.
  const loopShare = (song.loop!.startSeconds * song.rateHz) / songLengthFrames(song);
  await expect.poll(async () => Math.abs((await place()) - loopShare)).toBeLessThan(0.02);
  const before = await place();
  const track = { ...song.tracks[0], id: 'long', name: 'Long', lengthFrames: 2 * song.tracks[0].lengthFrames };
  const edit = { kind: 'track.add', track, index: song.tracks.length };
  const data = { clientId: 'test', edits: [{ id: 'long', edit }] };
  expect((await request.post(`/api/songs/${id}/edits`, { data })).ok()).toBe(true);
  await expect.poll(async () => Math.abs((await place()) - before / 2)).toBeLessThan(0.02);
});

test('before while B is held, after when it is let go; the levels are matched', async ({ page, request }) => {
  await openSong(page, await copyOfDemo(request));
  const before = page.getByRole('button', { name: 'Before', exact: true });
  await page.keyboard.down('b');
  await expect(before).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.up('b');
  await expect(before).toHaveAttribute('aria-pressed', 'false');
  await page.keyboard.press('Shift+B');
  await expect(before).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('button', { name: /^matched −\d\.\d dB/ })).toBeVisible();
});

test('two windows play one song: each its own way, and what one changes is heard in both', async ({
  page,
  context,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  const other = await context.newPage();
  await openSong(other, songId);
  const windows = [page, other];
  for (const window of windows) await window.keyboard.press('Space');
  // What lies behind another window is not drawn.
  const isHeard = async (window: Page) => {
    await window.bringToFront();
    await expect(window.getByTestId('mix-peak')).toHaveText(/peak −\d/);
  };
  for (const window of windows) await isHeard(window);
  await other.getByRole('button', { name: 'Stop' }).click();
  await isHeard(page);
  const { tracks } = await savedSong(page, songId);
  await other.getByRole('button', { name: `Mute ${tracks[0].name}`, exact: true }).click();
  await expect(page.getByRole('button', { name: `Mute ${tracks[0].name}`, exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
  await expect(other.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
});
