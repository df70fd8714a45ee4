import { readFileSync } from 'node:fs';
import type { Song } from '@/core/song';
import { bandsOf, copyOfDemo, drag, openSong, savedSong } from './support/song';
import { expect, test, type Page } from './support/test';
import { goWithin, openList } from './support/within';

/** What a busy person does: chords in fields, values ended by a click elsewhere, real Tab order, links in the middle of work. */

const VOICE = 'lead-voice';
const name = (page: Page, trackId: string, called: string) =>
  page.getByTestId(`lane-${trackId}`).getByRole('button', { name: called, exact: true });
const focused = (page: Page) => page.locator(':focus');
const level = (page: Page) => page.getByRole('textbox', { name: 'Level', exact: true });
const trackOf = (song: Song, id: string) => song.tracks.find((track) => track.id === id)!;
const chosen = (page: Page) => page.locator('[data-testid^="lane-"][data-chosen]');

let songId: string;
test.beforeEach(async ({ page, request }) => {
  songId = await copyOfDemo(request);
  await openSong(page, songId);
});

test('a level that is typed and ended by a click on another track goes to the first; Ctrl A in the field selects its text', async ({
  page,
}) => {
  await level(page).click();
  await page.keyboard.press('Control+a');
  await expect(page.locator('[data-together]')).toHaveCount(0);
  await page.keyboard.type('-7.5');
  await name(page, 'cello', 'Cello').click();
  await expect(chosen(page)).toHaveAttribute('data-testid', 'lane-cello');
  const song = await savedSong(page, songId);
  expect(trackOf(song, VOICE).gainDb).toBe(-7.5);
  expect(song.tracks.filter(({ gainDb }) => gainDb === -7.5)).toHaveLength(1);
  // The same with what the lane of a track that is not chosen shows.
  await page.getByRole('textbox', { name: 'Level of Claps' }).click();
  await page.keyboard.type('-11');
  await name(page, 'dulcimer', 'Dulcimer').click();
  expect(trackOf(await savedSong(page, songId), 'claps').gainDb).toBe(-11);
});

test('a figure that cannot be read stays, marked; what the page shows can be typed', async ({ page }) => {
  await page.getByRole('button', { name: /^B Bell/ }).click();
  const frequency = page.getByRole('textbox', { name: 'Frequency' });
  for (const [text, hz] of [
    ['A4+20', 445.112],
    ['C♯4 +48 ct', 284.976],
    ['1,200', 1200],
    ['2.50 kHz', 2500],
  ] as const) {
    await frequency.fill(text);
    await frequency.press('Enter');
    expect(bandsOf(await savedSong(page, songId), VOICE)[1].frequencyHz).toBeCloseTo(hz, 1);
  }
  await frequency.fill('somewhere');
  await page.getByRole('heading', { name: 'Register' }).click();
  await expect(frequency).toHaveValue('somewhere');
  await expect(frequency).toHaveAttribute('aria-invalid', 'true');
  const word = page.getByText('Write it like 2.5k');
  await expect(word).toBeVisible();
  // It is read on its ground: in the colour that belongs to it, not in that of the row.
  expect(await word.evaluate((span) => getComputedStyle(span).color)).toBe('rgb(255, 255, 255)');
  await frequency.press('Escape');
  await expect(frequency).toHaveValue('2.50 kHz');
  // Less than 10 Hz, by which kilohertz may be meant, changes nothing, however it is left.
  await frequency.fill('5');
  await name(page, 'cello', 'Cello').click();
  expect(bandsOf(await savedSong(page, songId), VOICE)[1].frequencyHz).toBe(2500);
  await name(page, 'lead-voice', 'Lead voice').click();
  await page.getByRole('button', { name: /^B Bell/ }).click();
  await expect(frequency).toHaveValue('2.50 kHz');
});

test('Tab: the tracks are one stop, walked by arrows; handles are walked in order of frequency, both ways', async ({
  page,
}) => {
  await page.getByRole('button', { name: /^Frequency axis/ }).focus();
  await page.keyboard.press('Tab');
  await expect(focused(page)).toHaveText('Lead voice');
  await page.keyboard.press('ArrowDown');
  await expect(focused(page)).toHaveText('Harmony high');
  await page.keyboard.press('ArrowRight');
  await expect(focused(page)).toHaveAccessibleName('Mute Harmony high');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(focused(page)).toHaveAccessibleName('Level of Harmony high');
  await page.keyboard.press('ArrowUp');
  expect(trackOf(await savedSong(page, songId), 'harmony-high').gainDb).toBe(-2.5);
  await page.keyboard.press('ArrowLeft');
  await expect(focused(page)).toHaveAccessibleName('Solo Harmony high');
  await page.keyboard.press('Control+z');
  await name(page, VOICE, 'Lead voice').click();

  // From the list into the lane's own handles, past the divider and the list of bands, to the bench.
  const stops: string[] = [];
  for (let i = 0; i < 24 && !stops.some((stop) => stop.startsWith('Band C')); i++) {
    await page.keyboard.press('Tab');
    stops.push((await focused(page).getAttribute('aria-label')) ?? (await focused(page).innerText()));
  }
  expect(stops.slice(0, 4)).toEqual([
    'Lead voice, high-pass (cuts lows)',
    'Lead voice, no low-pass (cuts highs) yet',
    'Lead voice, claim 1, lower edge',
    'Lead voice, claim 1, upper edge',
  ]);
  const handles = stops.filter((stop) => /^Band [ABC],/.test(stop));
  expect(handles.map((stop) => stop[5])).toEqual(['A', 'B', 'B', 'B', 'C']);
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+Tab');
  await expect(focused(page)).toHaveAccessibleName('Band A, High-pass');
});

test('where a key acts is where the focus is: a band that is made, flipped or left by Delete has it', async ({
  page,
}) => {
  await page.keyboard.press('n');
  await page.keyboard.type('bell 2k -3');
  await page.keyboard.press('Enter');
  await expect(focused(page)).toHaveAccessibleName('Band D, Bell');
  await page.keyboard.press('ArrowUp');
  expect(bandsOf(await savedSong(page, songId), VOICE)[3]).toMatchObject({ gainDb: -2.5 });
  await expect(chosen(page)).toHaveAttribute('data-testid', `lane-${VOICE}`);
  await page.keyboard.press('Delete');
  await expect(focused(page)).toHaveAccessibleName('Band C, High shelf');
  await page.keyboard.press('ArrowRight');
  expect(bandsOf(await savedSong(page, songId), VOICE)[2].frequencyHz).toBeGreaterThan(9000);
  await page.keyboard.press('Home');
  expect(bandsOf(await savedSong(page, songId), VOICE)[2].frequencyHz).toBe(20);
  await page.keyboard.press('PageUp');
  expect(bandsOf(await savedSong(page, songId), VOICE)[2].frequencyHz).toBe(40);
  // A click on a cap leaves the arrows with it.
  await page.locator('[data-testid="band-B"] [data-part="cap"] .cap').click({ force: true });
  await page.keyboard.press('ArrowDown');
  expect(bandsOf(await savedSong(page, songId), VOICE)[1].gainDb).toBe(-4);
});

test('↓ opens a select that has the focus; letters in a menu choose there', async ({ page }) => {
  await page.getByRole('button', { name: /Curve of the bench$/ }).focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option', { name: 'Group delay' })).toBeVisible();
  await page.keyboard.press('m');
  await page.keyboard.press('Escape');
  await expect(chosen(page)).toHaveAttribute('data-testid', `lane-${VOICE}`);
  expect(trackOf(await savedSong(page, songId), VOICE).muted).toBe(false);
});

test('in the middle of a drag, keys that would change its subject do nothing, and nothing is said', async ({
  page,
}) => {
  await page.keyboard.press('n');
  await page.keyboard.type('bell 1k -3');
  await page.keyboard.press('Enter');
  const cap = page.locator('[data-testid="band-D"] [data-part="cap"] .cap');
  const box = (await cap.boundingBox())!;
  await page.mouse.move(box.x + 8, box.y + 7);
  await page.mouse.down();
  await page.mouse.move(box.x + 60, box.y + 40, { steps: 5 });
  for (const key of ['Control+z', 'Delete', 'ArrowDown', '[', 'm', 'Tab']) await page.keyboard.press(key);
  await page.mouse.move(box.x + 90, box.y + 40, { steps: 3 });
  await page.waitForTimeout(50);
  await page.mouse.up();
  await expect(page.getByRole('alert').filter({ hasText: /./ })).toHaveCount(0);
  const bands = bandsOf(await savedSong(page, songId), VOICE);
  expect(bands).toHaveLength(4);
  expect(bands[3].frequencyHz).toBeGreaterThan(1300);
  expect(trackOf(await savedSong(page, songId), VOICE).muted).toBe(false);
});

test('four steps of both ends by key are one step: undone and done again whole', async ({ page }) => {
  await name(page, 'dulcimer', 'Dulcimer').click();
  await page.getByRole('slider', { name: 'Both ends of Dulcimer' }).focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Alt+ArrowDown');
  const saved = async () => bandsOf(await savedSong(page, songId), 'dulcimer');
  await expect.poll(saved).toHaveLength(2);
  const closed = await saved();
  // What was saved before is still said for a moment.
  await page.keyboard.press('Control+z');
  await expect.poll(saved).toEqual([]);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(saved).toEqual(closed);
  await expect(page.getByRole('alert').filter({ hasText: /./ })).toHaveCount(0);
});

test('while Match previews, a mute leaves its bands where they are, and the panel is right about them', async ({
  page,
}) => {
  await name(page, 'harmony-low', 'Harmony low').click();
  await page.keyboard.press('Alt+3');
  await page.getByRole('button', { name: /Match to$/ }).click();
  await page.getByRole('option', { name: 'Harmony high', exact: true }).click();
  await expect(page.getByText(/bands?, on the bench now$/)).toBeVisible();
  const shown = await page.locator('[data-part="cap"]').count();
  expect(shown).toBeGreaterThan(0);
  await page.getByRole('heading', { name: 'Register' }).click();
  await page.keyboard.press('m');
  await expect(page.getByRole('button', { name: 'Mute Harmony low' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.locator('[data-part="cap"]')).toHaveCount(shown);
  await page.getByRole('button', { name: 'Keep them' }).click();
  expect(bandsOf(await savedSong(page, songId), 'harmony-low')).toHaveLength(shown);
});

test('two windows on one band: a drag sends only what it has changed', async ({ page, context }) => {
  const other = await context.newPage();
  await openSong(other, songId);
  const cap = page.locator('[data-testid="band-B"] [data-part="cap"] .cap');
  const box = (await cap.boundingBox())!;
  await page.mouse.move(box.x + 8, box.y + 7);
  await page.mouse.down();
  await page.mouse.move(box.x + 8, box.y + 30, { steps: 4 });
  await other.getByRole('button', { name: /^B Bell/ }).click();
  await other.getByRole('textbox', { name: 'Frequency' }).fill('400');
  await other.getByRole('textbox', { name: 'Frequency' }).press('Enter');
  await expect(page.getByRole('button', { name: /^B Bell 400 Hz/ })).toBeVisible();
  await page.mouse.move(box.x + 8, box.y + 40, { steps: 3 });
  await page.waitForTimeout(50);
  await page.mouse.up();
  const band = bandsOf(await savedSong(page, songId), VOICE)[1];
  expect(band.frequencyHz).toBe(400);
  expect(band.gainDb).toBeLessThan(-4);
});

test('two windows on one band that gives way: each changes its own figure, and its own end of the key', async ({
  page,
  context,
}) => {
  await page.getByRole('button', { name: /^B Bell/ }).click();
  await page.getByRole('region', { name: 'Band B' }).getByRole('button', { name: 'Stays' }).click();
  const field = (of: Page, name: string) => of.getByRole('textbox', { name, exact: true });
  // A value that is ended by a click elsewhere, and one that would let the ends pass each other.
  await field(page, 'Lower end of the key').fill('200');
  await page.getByRole('heading', { name: 'Register' }).click();
  await field(page, 'Upper end of the key').fill('900');
  await field(page, 'Upper end of the key').press('Enter');
  await field(page, 'Upper end of the key').fill('150');
  await field(page, 'Upper end of the key').press('Enter');
  await expect(page.getByText('The lower end of a range must lie below its upper end.').first()).toBeVisible();
  await page.getByRole('button', { name: 'Dismiss' }).click();
  const givesWay = async () => bandsOf(await savedSong(page, songId), VOICE)[1].givesWay!;
  expect((await givesWay()).key).toMatchObject({ lowHz: 200, highHz: 900 });

  const other = await context.newPage();
  await openSong(other, songId);
  await other.getByRole('button', { name: /^B Bell/ }).click();
  const far = (await page.locator('[data-testid="band-B"] [data-part="far"] .grip').boundingBox())!;
  const [x, y] = [far.x + far.width / 2, far.y + far.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y + 20, { steps: 4 });
  await field(other, 'Attack of the way').fill('3');
  await field(other, 'Attack of the way').press('Enter');
  await field(other, 'Lower end of the key').fill('250');
  await field(other, 'Lower end of the key').press('Enter');
  await expect(field(page, 'Lower end of the key')).toHaveValue(/^250/);
  await page.mouse.move(x, y + 30, { steps: 3 });
  await page.waitForTimeout(50);
  await page.mouse.up();
  await expect.poll(async () => (await givesWay()).amountDb).toBeLessThan(-6.5);
  expect(await givesWay()).toMatchObject({ attackMs: 3, key: { lowHz: 250, highHz: 900 } });

  // Quick steps of two figures are two steps of undo.
  await field(page, 'Threshold of the way').press('ArrowUp');
  await field(page, 'Hold of the way').press('ArrowUp');
  await expect.poll(async () => (await givesWay()).holdMs).toBeGreaterThan(0);
  await page.getByRole('heading', { name: 'Register' }).click();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await givesWay()).holdMs).toBe(0);
  expect((await givesWay()).thresholdDb).toBeGreaterThan(-30);
});

test('from one song to another by links: nothing of the first is shown, heard or done in the second', async ({
  page,
}) => {
  await page.getByTestId('mix-loudness').filter({ hasText: /LUFS/ }).waitFor();
  await page.keyboard.press('Alt+9');
  await page.getByRole('button', { name: 'Measure it' }).click();
  await expect(page.getByTestId('mix-loudness')).toHaveText(/dBTP/);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Hear only the range of the band');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('earshot')).toBeVisible();
  await page.getByRole('link', { name: 'Orvid' }).click();
  await page.getByRole('link', { name: 'Lantern Ferry', exact: true }).first().click();
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
  await expect(page.getByTestId('earshot')).toHaveCount(0);
  await expect(page.getByTestId('mix-loudness')).toHaveText(/≈ −\d/);
  // A drag is a drag again.
  await page.locator('[data-testid="band-B"] [data-part="cap"] .cap').hover({ force: true });
  await page.keyboard.press('Alt+2');
  await page.getByRole('button', { name: 'Render…' }).click();
  await expect(page.getByText('Made of this song')).toBeVisible();
  await expect(page.getByRole('link', { name: /copy/ })).toHaveCount(0);
});

test('after a look at the score the last step can still be undone, and the same track is chosen', async ({ page }) => {
  await name(page, 'cello', 'Cello').click();
  await page.keyboard.press('m');
  await savedSong(page, songId);
  await page.keyboard.press('Control+k');
  // With a slip of the fingers.
  await page.keyboard.type('The scroe of the song');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: 'Back to the song' }).click();
  await expect(chosen(page)).toHaveAttribute('data-testid', 'lane-cello');
  expect(trackOf(await savedSong(page, songId), 'cello').muted).toBe(true);
  await page.keyboard.press('Control+z');
  expect(trackOf(await savedSong(page, songId), 'cello').muted).toBe(false);
});

test('in a small window everything in the bar and at the head of the bench is in reach; a track that is chosen by words is scrolled into sight', async ({
  page,
}) => {
  const inReach = [
    page.getByRole('button', { name: 'Render…' }),
    page.getByTestId('mix-loudness'),
    page.getByRole('button', { name: /Where the mix is heard/ }),
    page.getByRole('button', { name: 'Phase of the equalizer' }),
    page.getByRole('button', { name: 'Probe' }),
  ];
  // Stereo: its head has a choice more.
  await page.getByRole('button', { name: 'Master', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Path of the bench' })).toBeVisible();
  for (const width of [1280, 1130, 1000, 900, 860]) {
    await page.setViewportSize({ width, height: 600 });
    for (const control of inReach) await expect(control).toBeInViewport({ ratio: 0.99 });
    const overlaps = await page.evaluate(() => {
      const boxes = [...document.querySelectorAll('header > *')].map((part) => part.getBoundingClientRect());
      return boxes.some((box, i) =>
        boxes
          .slice(i + 1)
          .some(
            (two) =>
              box.left < two.right - 1 &&
              two.left < box.right - 1 &&
              box.top < two.bottom - 1 &&
              two.top < box.bottom - 1,
          ),
      );
    });
    expect([width, overlaps]).toEqual([width, false]);
  }
  await page.setViewportSize({ width: 1280, height: 560 });
  await page.keyboard.press('Control+k');
  await page.keyboard.type('go room');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('lane-room')).toBeInViewport({ ratio: 0.9 });
});

test('the first proposal of Make room does something, whichever overlap it is for', async ({ page }) => {
  await page.keyboard.press('Alt+6');
  const rows = page.getByRole('list', { name: 'Overlaps, the worst first' }).getByRole('listitem');
  await expect(rows.first()).toBeVisible();
  for (let i = 0; i < 3; i++) {
    await rows
      .nth(i)
      .getByRole('button', { name: /^Make room/ })
      .click();
    await expect(page.getByRole('button', { name: 'Keep the moves' })).toBeEnabled();
    await expect(page.getByText('nothing needs to give way')).toHaveCount(0);
    await page.getByRole('button', { name: 'Take them back' }).click();
  }
});

test('while something is muted or soloed the render sheet says what will be missing', async ({ page }) => {
  await page.getByRole('button', { name: 'Mute Claps' }).click();
  await page.getByRole('button', { name: 'Render…' }).click();
  await expect(page.getByText('Not in the mix: Claps (muted).')).toBeVisible();
});

test('an edge of a handle is dragged beside its cap; targets are 24 pixels and more; arms tell decibels', async ({
  page,
}) => {
  const arm = page.getByRole('slider', { name: 'Band C, High shelf, arm' });
  await expect(arm).toHaveAttribute('aria-valuetext', '+2.0 dB');
  await expect(arm).toHaveAttribute('aria-valuemax', '36');
  await drag(page, page.getByRole('slider', { name: 'Band B, Bell, upper edge' }).locator('.grip'), 30, 0);
  expect(bandsOf(await savedSong(page, songId), VOICE)[1].q).toBeLessThan(2);
  const small = await page.locator('main button:visible, main [role=slider] .grip:visible').evaluateAll((all) =>
    all.flatMap((element) => {
      const { width, height } = element.getBoundingClientRect();
      return width > 0 && Math.min(width, height) < 23.5 ? [`${element.textContent} ${width} × ${height}`] : [];
    }),
  );
  expect(small).toEqual([]);
});

for (const element of ['span', 'button'])
  test(`a semi-bold i in a ${element} has its dot, on a screen of one device pixel`, async ({ page }) => {
    // Down the middle of a semi-bold i of 14 px, drawn as the page draws text: between dot and stem there is paper.
    await page.evaluate((tag) => {
      const letter = document.createElement(tag);
      letter.id = 'letter';
      letter.textContent = 'i';
      letter.style.cssText =
        'position: fixed; left: 40px; top: 300px; z-index: 99; width: 20px; height: 26px; text-align: center; line-height: 26px; background: #fff; color: #000; font-weight: 600; font-size: 14px; border: 0; padding: 0;';
      document.body.append(letter);
    }, element);
    await page.evaluate(() => document.fonts.ready);
    const picture = await page.screenshot({ clip: { x: 41, y: 301, width: 18, height: 24 }, scale: 'css' });
    // The page goes on with other songs.
    await page.locator('#letter').evaluate((letter) => letter.remove());
    const darkness = await page.evaluate(
      async (bytes) => {
        const bitmap = await createImageBitmap(new Blob([Uint8Array.from(bytes)], { type: 'image/png' }));
        const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
        const context = canvas.getContext('2d')!;
        context.drawImage(bitmap, 0, 0);
        const { data } = context.getImageData(0, 0, bitmap.width, bitmap.height);
        return Array.from({ length: bitmap.height }, (_, y) =>
          Math.max(...Array.from({ length: bitmap.width }, (__, x) => 255 - data[(y * bitmap.width + x) * 4])),
        );
      },
      [...picture],
    );
    const inked = darkness.map((value) => value > 110);
    const [first, last] = [inked.indexOf(true), inked.lastIndexOf(true)];
    expect(first).toBeGreaterThan(0);
    expect(inked.slice(first, last)).toContain(false);
  });

test('the label of 0 dB stands clear of the curve', async ({ page }) => {
  await name(page, 'claps', 'Claps').click();
  // Without a band the curve lies on the line of 0 dB, right under its label.
  const rows = await page.getByTestId('bench-curve').evaluate((element) => {
    const canvas = element as HTMLCanvasElement;
    const middle = Math.round(canvas.height / 2);
    const { data } = canvas.getContext('2d')!.getImageData(canvas.width - 34, middle - 14, 30, 11);
    return Array.from(
      { length: 11 },
      (_, y) => Array.from({ length: 30 }, (__, x) => data[(y * 30 + x) * 4 + 3]).filter((alpha) => alpha > 120).length,
    );
  });
  expect(rows.filter((inked) => inked > 3).length).toBeGreaterThan(5);
});

/** Runs in the page: notes when its Register is seen. */
const markRegister = () =>
  new MutationObserver((_, observer) => {
    if (![...document.querySelectorAll('h2')].some(({ textContent }) => textContent === 'Register')) return;
    performance.mark('register');
    observer.disconnect();
  }).observe(document, { subtree: true, childList: true });

/** Scripts of the page that were asked for until now, or before its Register was seen, as they are packed, KiB. */
const scriptsUntilNow = (page: Page): Promise<number> =>
  page.evaluate(() => {
    const seen = performance.getEntriesByName('register')[0]?.startTime ?? Infinity;
    return (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
      .filter(({ name, startTime }) => name.includes('/_next/') && name.includes('.js') && startTime < seen)
      .reduce((sum, { encodedBodySize }) => sum + encodedBodySize / 1024, 0);
  });

async function scriptsBeforeRegister(page: Page): Promise<number> {
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
  return scriptsUntilNow(page);
}

test('what is fetched before the Register is seen stays small, and is there before a song in the list is clicked', async ({
  context,
  request,
}) => {
  const song = `/songs/${await copyOfDemo(request)}`;
  const byAddress = await context.newPage();
  await byAddress.addInitScript(markRegister);
  await byAddress.goto(song);
  const scripts = await scriptsBeforeRegister(byAddress);
  // 722 KiB before panels and sheets came by themselves.
  expect(scripts).toBeGreaterThan(300);
  expect(scripts).toBeLessThan(590);

  const fromList = await context.newPage();
  await openList(fromList);
  // Most of it is brought while the list is at rest.
  await expect.poll(() => scriptsUntilNow(fromList)).toBeGreaterThan((3 / 4) * scripts);
  await fromList.evaluate(() => performance.clearResourceTimings());
  await fromList.evaluate(markRegister);
  await goWithin(fromList, song);
  expect(await scriptsBeforeRegister(fromList)).toBeLessThan(scripts / 4);
});

test('a bundle of the page’s own stays small', () => {
  const mix = readFileSync('public/audio/mix.js', 'utf8');
  expect(mix.length).toBeLessThan(100_000);
  expect(mix).not.toContain('ZodError');
});
