import { expect, test, type Page } from './support/test';
import { analogMagnitudeDb, prototype } from '@/core/filters';
import { BAND_DEFAULTS } from '@/core/song';
import {
  change,
  greatestChange,
  heardTones,
  loudnessOf,
  onBench,
  play,
  toneNear,
  TONES_HZ,
  toneSong,
} from './support/ear';
import { bandsOf, openSong, savedSong, tick } from './support/song';

/** Opens a song of tones, plays it, and hears it as it is. */
async function listen(page: Page, tracks?: Record<string, readonly number[]>) {
  const { songId, trackIds } = await toneSong(page.request, tracks);
  await openSong(page, songId);
  await play(page);
  return { songId, trackIds, plain: await heardTones(page) };
}
/** Adds a band by words. */
async function words(page: Page, text: string): Promise<void> {
  await page.keyboard.press('n');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
}
const ringHz = toneNear(1000);
const FAR = TONES_HZ.filter((hz) => Math.abs(Math.log2(hz / ringHz)) > 2);

test('Probe: the boost follows the pointer and the keys, is marked, flipped to a cut, and is gone when it is let go', async ({
  page,
}) => {
  const { songId, trackIds, plain } = await listen(page);
  const place = await onBench(page, ringHz);
  await page.mouse.move(place.x - 60, place.y);
  await page.keyboard.down('p');
  await page.mouse.move(place.x, place.y);
  const probed = change(plain, await heardTones(page));
  expect(Math.abs(probed.get(ringHz)! - 6)).toBeLessThan(0.25);
  for (const hz of FAR) expect(Math.abs(probed.get(hz)!)).toBeLessThan(0.1);
  await page.keyboard.press('m');
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowUp');
  expect(change(plain, await heardTones(page)).get(ringHz)!).toBeGreaterThan(7.5);
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowUp');
  await expect(page.getByText('Pushed this far, everything sounds odd')).toBeVisible();
  await page.keyboard.up('p');
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toEqual([]);

  // The mark stays; by key it is a cut with half the probe's Q.
  const mark = page.getByRole('button', { name: /^Mark at/ });
  await expect(mark).toHaveCount(1);
  await page.keyboard.press('f');
  await expect(mark).toHaveCount(0);
  const cut = change(plain, await heardTones(page));
  expect(Math.abs(cut.get(ringHz)! + 3)).toBeLessThan(0.15);
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toMatchObject([{ type: 'bell', gainDb: -3, q: 4 }]);
  // It is chosen and has the keyboard.
  await page.keyboard.press('ArrowDown');
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toMatchObject([{ gainDb: -3.5 }]);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toEqual([]);
});

test('Probe: by keys alone, coarse and fine; Escape leaves all as it was', async ({ page }) => {
  const { songId, trackIds, plain } = await listen(page);
  await page.keyboard.down('p');
  const slider = page.getByRole('slider', { name: 'Probe' });
  await expect(slider).toHaveAttribute('aria-valuenow', '400');
  await page.keyboard.press('Alt+ArrowRight');
  await expect(slider).toHaveAttribute('aria-valuenow', '504');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(slider).toHaveAttribute('aria-valuenow', '506.9');
  await page.keyboard.press('m');
  await expect(page.getByRole('button', { name: /^Mark at/ })).toHaveCount(1);
  await page.keyboard.press('Escape');
  await page.keyboard.up('p');
  await expect(page.getByRole('button', { name: /^Mark at/ })).toHaveCount(0);
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toEqual([]);
});

test('Probe and Earshot without holding a key: they stay, hear their keys, and end with Escape', async ({ page }) => {
  const { plain } = await listen(page);
  const command = async (text: string) => {
    await page.keyboard.press('Control+k');
    await page.keyboard.type(text);
    await page.keyboard.press('Enter');
  };
  await command('Probe: begin');
  const slider = page.getByRole('slider', { name: 'Probe' });
  await expect(slider).toHaveAttribute('aria-valuenow', '400');
  for (let i = 0; i < 4; i++) await page.keyboard.press('Alt+ArrowRight');
  const placeHz = Number(await slider.getAttribute('aria-valuenow'));
  expect(placeHz).toBeCloseTo(1008, 0);
  const bell = prototype({ ...BAND_DEFAULTS, type: 'bell', frequencyHz: placeHz, gainDb: 6, q: 8 });
  const probed = change(plain, await heardTones(page));
  for (const hz of TONES_HZ) expect(Math.abs(probed.get(hz)! - analogMagnitudeDb(bell, placeHz, hz))).toBeLessThan(0.1);
  await page.keyboard.press('Escape');
  await expect(slider).toHaveCount(0);
  await command('Hear only the range of the band');
  await expect(page.getByTestId('earshot')).toContainText('Only 500 Hz to 2.00 kHz of Tones');
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByTestId('earshot')).toContainText('Only 397 Hz to 2.52 kHz of Tones');
  expect(change(plain, await heardTones(page)).get(toneNear(8000))!).toBeLessThan(-40);
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('earshot')).toHaveCount(0);
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
});

test('more than six narrow cuts are spoken of once', async ({ page }) => {
  const { songId, trackIds } = await toneSong(page.request);
  await openSong(page, songId);
  for (let i = 0; i < 6; i++) await words(page, `bell ${200 + 100 * i} -4 q 6`);
  const remark = page.getByText('More than six narrow cuts');
  const cut = async () => {
    await page.keyboard.down('p');
    await page.keyboard.press('Alt+ArrowRight');
    await page.keyboard.press('m');
    await page.keyboard.press('f');
    await page.keyboard.up('p');
  };
  await expect(remark).toHaveCount(0);
  await cut();
  await expect(remark).toHaveCount(1);
  await page.getByRole('button', { name: 'Dismiss' }).click();
  await cut();
  await page.waitForTimeout(300);
  await expect(remark).toHaveCount(0);
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toHaveLength(8);
});

test('Earshot: only the swept range of the track is heard, 40 dB and more below it the rest; its edges are dragged; it is gone after', async ({
  page,
}) => {
  const low = TONES_HZ.filter((_, i) => i % 2 === 0);
  const high = TONES_HZ.filter((_, i) => i % 2 === 1);
  const { songId, trackIds, plain } = await listen(page, { Even: low, Odd: high });
  const revision = (await (await page.request.get(`/api/songs/${songId}`)).json()).revision as number;
  const field = (await page.getByTestId(`lane-${trackIds[0]}`).boundingBox())!;
  const at = async (hz: number) => ({ x: (await onBench(page, hz)).x, y: field.y + field.height / 2 });
  const sweep = async (fromHz: number, toHz: number) => {
    const [from, to] = [await at(fromHz), await at(toHz)];
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move((from.x + to.x) / 2, from.y);
    await page.mouse.move(to.x, to.y);
    await page.waitForTimeout(60);
    await page.mouse.up();
  };
  await page.keyboard.down('e');
  await sweep(400, 2000);
  const heard = change(plain, await heardTones(page));
  const isInside = (hz: number) => hz > 410 && hz < 1950;
  for (const hz of low.filter(isInside)) expect(Math.abs(heard.get(hz)!)).toBeLessThan(0.5);
  const isOutside = (hz: number) => hz < 340 || hz > 2360;
  for (const hz of TONES_HZ.filter((tone) => isOutside(tone) || high.includes(tone)))
    expect(heard.get(hz)!).toBeLessThan(-40);
  // The upper edge to 6 kHz.
  const edge = (await page.getByRole('slider', { name: 'Earshot, upper edge' }).boundingBox())!;
  await page.mouse.move(edge.x + 6, field.y);
  await page.mouse.down();
  await page.mouse.move((await at(6000)).x, field.y, { steps: 4 });
  await page.waitForTimeout(60);
  await page.mouse.up();
  const wider = change(plain, await heardTones(page));
  for (const hz of low.filter((tone) => tone > 410 && tone < 5700)) expect(Math.abs(wider.get(hz)!)).toBeLessThan(0.5);
  await page.keyboard.up('e');
  await expect(page.getByTestId('earshot')).toHaveCount(0);
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
  expect((await (await page.request.get(`/api/songs/${songId}`)).json()).revision).toBe(revision);

  // On the ruler it is the mix; with a band focused, that band's extent.
  const ruler = (await page.getByRole('button', { name: /^Frequency axis/ }).boundingBox())!;
  await page.keyboard.down('e');
  await page.mouse.move((await at(400)).x, ruler.y + 20);
  await page.mouse.down();
  await page.mouse.move((await at(2000)).x, ruler.y + 20, { steps: 4 });
  await page.waitForTimeout(60);
  await page.mouse.up();
  const ofMix = change(plain, await heardTones(page));
  for (const hz of TONES_HZ.filter(isInside)) expect(Math.abs(ofMix.get(hz)!)).toBeLessThan(0.5);
  for (const hz of TONES_HZ.filter(isOutside)) expect(ofMix.get(hz)!).toBeLessThan(-40);
  await page.keyboard.up('e');
});

test('Earshot of a focused band is that band’s extent, at matched loudness where that is wanted', async ({ page }) => {
  const { plain } = await listen(page);
  await words(page, 'bell 1000 0.1 q 1');
  await page.locator('[data-testid="band-A"] [data-part="cap"]').focus();
  await page.keyboard.down('e');
  const heard = await heardTones(page);
  const edges = change(plain, heard);
  for (const hz of TONES_HZ) {
    if (hz > 640 && hz < 1580) expect(Math.abs(edges.get(hz)!)).toBeLessThan(0.6);
    if (hz < 525 || hz > 1900) expect(edges.get(hz)!).toBeLessThan(-40);
  }
  expect(loudnessOf(heard)).toBeLessThan(loudnessOf(plain) - 3);
  await page.keyboard.up('e');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Matched loudness of what is heard alone');
  await page.keyboard.press('Enter');
  await page.locator('[data-testid="band-A"] [data-part="cap"]').focus();
  await page.keyboard.down('e');
  expect(Math.abs(loudnessOf(await heardTones(page)) - loudnessOf(plain))).toBeLessThan(0.2);
  await page.keyboard.up('e');
});

test('before and after of the mix, the track and the band, at matched loudness within 0.2 LU', async ({ page }) => {
  const { plain } = await listen(page);
  await words(page, 'low shelf 300 -9');
  await words(page, 'bell 3k 8 q 1');
  const after = await heardTones(page);
  expect(Math.abs(loudnessOf(after) - loudnessOf(plain))).toBeGreaterThan(0.5);
  const compare = async (scope: string) => {
    await page.getByRole('button', { name: /What before leaves out$/ }).click();
    await page.getByRole('option', { name: scope, exact: true }).click();
    await page.keyboard.press('Escape');
    await page.keyboard.down('b');
    const before = await heardTones(page);
    await page.keyboard.up('b');
    expect(greatestChange(after, await heardTones(page))).toBeLessThan(0.05);
    return before;
  };
  for (const scope of ['Mix', 'Track']) {
    const before = await compare(scope);
    expect(Math.abs(loudnessOf(before) - loudnessOf(after))).toBeLessThan(0.2);
    // But for the gain it is the recording itself.
    const gains = [...change(plain, before).values()];
    expect(Math.max(...gains) - Math.min(...gains)).toBeLessThan(0.05);
  }
  // The chosen band is the bell; the shelf stays.
  const withoutBell = change(plain, await compare('Band'));
  expect(withoutBell.get(toneNear(3000))! - withoutBell.get(toneNear(14000))!).toBeLessThan(0.3);
  expect(withoutBell.get(toneNear(60))! - withoutBell.get(toneNear(14000))!).toBeLessThan(-8);
  // Not matched: the plain level.
  await page.getByRole('button', { name: /^matched/ }).click();
  await compare('Mix').then((before) => expect(greatestChange(plain, before)).toBeLessThan(0.05));
});

test('drafts: kept, heard at matched loudness without stopping, compared in words, taken, copied from', async ({
  page,
}) => {
  const { songId, trackIds, plain } = await listen(page);
  await page.keyboard.press('Alt+2');
  const name = page.getByRole('textbox', { name: 'Name for this draft' });
  await name.fill('Plain');
  await name.press('Enter');
  await page.getByRole('heading', { name: 'Register' }).click();
  await words(page, 'high pass 300 24');
  await words(page, 'bell 2k 6 q 2');
  const shaped = await heardTones(page);
  await page.getByRole('button', { name: 'Hear Plain' }).click();
  const heard = await heardTones(page);
  expect(Math.abs(loudnessOf(heard) - loudnessOf(shaped))).toBeLessThan(0.2);
  const gains = [...change(plain, heard).values()];
  expect(Math.max(...gains) - Math.min(...gains)).toBeLessThan(0.05);
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.getByRole('button', { name: 'Hear Plain' }).click();
  expect(greatestChange(shaped, await heardTones(page))).toBeLessThan(0.05);

  await page.getByRole('button', { name: 'What to do with Plain' }).click();
  await page.getByRole('menuitem', { name: 'What differs…' }).click();
  await expect(page.getByText('Tones: high-pass added, 300 Hz, 24 dB/oct')).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();

  await page.getByRole('button', { name: 'Take Plain' }).click();
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toEqual([]);
  expect(Math.abs(loudnessOf(await heardTones(page)) - loudnessOf(shaped))).toBeLessThan(0.2);
  await page.getByRole('button', { name: /^monitor/ }).click();
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
  await page.keyboard.press('Control+z');
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toHaveLength(2);
  await page.getByRole('button', { name: 'What to do with Plain' }).click();
  await page.getByRole('menuitem', { name: 'Copy the chosen track from it' }).click();
  expect(bandsOf(await savedSong(page, songId), trackIds[0])).toEqual([]);
  expect((await savedSong(page, songId)).drafts).toHaveLength(1);
});

test('blind: four trials told apart by ear, the result with its probability, and what was chosen is kept', async ({
  page,
}) => {
  const { songId, trackIds, plain } = await listen(page);
  await words(page, 'bell 1000 9 q 1');
  await page.keyboard.press('Alt+2');
  await page.getByRole('button', { name: 'Compare blind…' }).click();
  await page.getByRole('textbox', { name: 'Trials' }).fill('4');
  await page.getByRole('textbox', { name: 'Trials' }).press('Enter');
  await page.getByRole('button', { name: 'Begin' }).click();
  for (let trial = 0; trial < 4; trial++) {
    await page.getByRole('button', { name: 'Hear the first' }).click();
    const first = change(plain, await heardTones(page));
    const isBefore = first.get(ringHz)! - first.get(toneNear(14000))! < 1;
    await page.getByRole('button', { name: isBefore ? 'The first is better' : 'The second is better' }).click();
  }
  await expect(page.getByText(/^Chosen 4 times of 4: before, without equalizers/)).toBeVisible();
  // Two of sixteen outcomes are so clear.
  await expect(page.getByText(/in 1[23] % of cases: it does not say much/)).toBeVisible();
  await page.getByRole('button', { name: 'Keep what was chosen' }).click();
  expect((await savedSong(page, songId)).tracks[0].chain[0].enabled).toBe(false);
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
  await page.keyboard.press('Control+z');
  expect((await savedSong(page, songId)).tracks.find(({ id }) => id === trackIds[0])!.chain[0].enabled).toBe(true);
});

test('solo: the pair, and all of the company', async ({ page }) => {
  const every = (rest: number) => TONES_HZ.filter((_, i) => i % 3 === rest);
  const { plain } = await listen(page, { One: every(0), Two: every(1), Three: every(2) });
  await page.keyboard.press('Alt+4');
  await tick(page.getByRole('checkbox', { name: 'Two in company' }));
  await page.keyboard.press('Alt+s');
  const pair = change(plain, await heardTones(page));
  TONES_HZ.forEach((hz, i) => {
    if (i % 3 === 2) expect(pair.get(hz)!).toBeLessThan(-60);
    else expect(Math.abs(pair.get(hz)!)).toBeLessThan(0.05);
  });
  await tick(page.getByRole('checkbox', { name: 'Three in company' }));
  await page.getByRole('button', { name: 'Solo all of them' }).click();
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  expect(greatestChange(plain, await heardTones(page))).toBeLessThan(0.05);
});
