import { expect, test, type Page } from './support/test';
import { bandsOf, copyOfDemo, drag, openSong, pressQuickly, savedSong, undoAll } from './support/song';

const VOICE = 'lead-voice';
const lanePost = (page: Page) => page.getByRole('slider', { name: 'Lead voice, high-pass (cuts lows)' });
const cap = (page: Page, letter: string, kind: string) =>
  page.getByRole('slider', { name: `Band ${letter}, ${kind}`, exact: true });

let songId: string;
test.beforeEach(async ({ page, request }) => {
  songId = await copyOfDemo(request);
  await openSong(page, songId);
});

test('a post in a lane, by pointer and by keyboard: sideways the corner, up and down the slope', async ({ page }) => {
  const before = bandsOf(await savedSong(page, songId), VOICE);
  await drag(page, lanePost(page), 60, 0);
  let [post] = bandsOf(await savedSong(page, songId), VOICE);
  expect(post.frequencyHz).toBeGreaterThan(140);
  expect(post.order).toBe(3);
  await drag(page, lanePost(page), 0, -40);
  [post] = bandsOf(await savedSong(page, songId), VOICE);
  expect(post.order).toBeGreaterThan(3);
  await lanePost(page).focus();
  await pressQuickly(page, 'ArrowLeft', 2);
  await page.keyboard.press('ArrowUp');
  const [byKey] = bandsOf(await savedSong(page, songId), VOICE);
  expect(byKey.frequencyHz / post.frequencyHz).toBeCloseTo(2 ** (-2 / 24), 3);
  expect(byKey.order).toBe(post.order + 1);
  // Two presses of one key are one step: two drags and two kinds of key make four.
  await undoAll(page, 4);
  expect(bandsOf(await savedSong(page, songId), VOICE)).toEqual(before);
});

test('a bell: its cap and the ends of its bar, by pointer and by keyboard', async ({ page }) => {
  const before = bandsOf(await savedSong(page, songId), VOICE);
  await drag(page, cap(page, 'B', 'Bell'), 50, 40);
  let bell = bandsOf(await savedSong(page, songId), VOICE)[1];
  expect(bell.frequencyHz).toBeGreaterThan(before[1].frequencyHz * 1.2);
  expect(bell.gainDb).toBeLessThan(before[1].gainDb - 1);
  await drag(page, cap(page, 'B', 'Bell, upper edge'), 40, 0);
  const wider = bandsOf(await savedSong(page, songId), VOICE)[1];
  expect(wider).toEqual({ ...bell, q: wider.q });
  expect(wider.q).toBeLessThan(bell.q * 0.8);
  await cap(page, 'B', 'Bell').focus();
  await page.keyboard.press('Shift+ArrowUp');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press(',');
  bell = bandsOf(await savedSong(page, songId), VOICE)[1];
  expect(bell.gainDb).toBeCloseTo(wider.gainDb + 0.1, 6);
  expect(bell.frequencyHz).toBeGreaterThan(wider.frequencyHz);
  expect(bell.q).toBeGreaterThan(wider.q);
  await cap(page, 'B', 'Bell, lower edge').focus();
  await page.keyboard.press('ArrowLeft');
  expect(bandsOf(await savedSong(page, songId), VOICE)[1].q).toBeLessThan(bell.q);
  await undoAll(page, 6);
  expect(bandsOf(await savedSong(page, songId), VOICE)).toEqual(before);
});

test('typed values: 2.5k, A4, a gain with its unit; what cannot be read is said and changes nothing', async ({
  page,
}) => {
  await page.getByRole('button', { name: /^B Bell/ }).click();
  const type = async (label: string, text: string) => {
    await page.getByRole('region', { name: 'Band B' }).getByRole('textbox', { name: label }).fill(text);
    await page.keyboard.press('Enter');
    return bandsOf(await savedSong(page, songId), VOICE)[1];
  };
  expect((await type('Frequency', '2.5k')).frequencyHz).toBe(2500);
  expect((await type('Frequency', 'A4')).frequencyHz).toBe(440);
  await expect(page.getByText('A4 +0 ct')).toBeVisible();
  expect((await type('Gain', '−6 dB')).gainDb).toBe(-6);
  expect((await type('Width', '1 oct')).q).toBeCloseTo(Math.SQRT2, 3);
  expect((await type('Gain', 'loud')).gainDb).toBe(-6);
  await expect(page.locator('main [role=alert]')).toContainText('Write it like −3, +2.5 dB');
  await page.keyboard.press('Escape');
  const gain = page.getByRole('region', { name: 'Band B' }).getByRole('textbox', { name: 'Gain' });
  await expect(gain).toHaveValue('−6.0 dB');
  // Hands that save by themselves save what is being typed, and are told so.
  await gain.fill('-2');
  await page.keyboard.press('Control+s');
  await expect(page.getByText(/^Saved, revision \d+: everything is saved as it is done/)).toBeVisible();
  expect(bandsOf(await savedSong(page, songId), VOICE)[1].gainDb).toBe(-2);
});

test('Escape in the middle of a drag leaves no trace', async ({ page }) => {
  const before = await savedSong(page, songId);
  const box = (await cap(page, 'B', 'Bell').boundingBox())!;
  await page.mouse.move(box.x + 10, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 100, box.y + 60, { steps: 4 });
  await expect(cap(page, 'B', 'Bell')).not.toHaveAttribute('aria-valuetext', /^285 Hz/);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(cap(page, 'B', 'Bell')).toHaveAttribute('aria-valuetext', /^285 Hz/);
  expect(await savedSong(page, songId)).toEqual(before);
});

test('both ends of a track at once: Alt in its lane', async ({ page }) => {
  const field = page.getByTestId('lane-field-dulcimer');
  await drag(page, field, 0, 40, 'Alt');
  const bands = bandsOf(await savedSong(page, songId), 'dulcimer');
  expect(bands.map((band) => [band.type, band.letter])).toEqual([
    ['high-pass', 'A'],
    ['low-pass', 'B'],
  ]);
  expect(bands[0].frequencyHz).toBeGreaterThan(25);
  expect(bands[1].frequencyHz).toBeLessThan(16000);
  await undoAll(page, 1);
  expect(bandsOf(await savedSong(page, songId), 'dulcimer')).toEqual([]);
});

test('a post is dragged in from the edge of a lane, and by key; Delete takes it out', async ({ page }) => {
  await drag(page, page.getByRole('slider', { name: 'Cello, no high-pass (cuts lows) yet' }), 120, 0);
  expect(bandsOf(await savedSong(page, songId), 'cello')).toMatchObject([{ type: 'high-pass', order: 3 }]);
  await page.getByRole('slider', { name: 'Cello, no low-pass (cuts highs) yet' }).focus();
  await page.keyboard.press('ArrowLeft');
  expect(bandsOf(await savedSong(page, songId), 'cello')).toHaveLength(2);
  await page.getByRole('slider', { name: 'Cello, low-pass (cuts highs)' }).focus();
  await page.keyboard.press('Delete');
  expect(bandsOf(await savedSong(page, songId), 'cello')).toMatchObject([{ type: 'high-pass' }]);
});

test('bands are added by double click, from the menu and in words; one is removed', async ({ page }) => {
  await page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true }).click();
  const field = (await page.getByTestId('bench-field').boundingBox())!;
  await page.mouse.dblclick(field.x + field.width / 2, field.y + field.height / 4);
  expect(bandsOf(await savedSong(page, songId), 'cello')[0]).toMatchObject({
    type: 'bell',
    letter: 'A',
    frequencyHz: expect.closeTo(632, -1),
  });
  await page.getByRole('button', { name: '+ Add a band' }).click();
  await page.getByRole('menuitem', { name: 'High shelf' }).click();
  await page.keyboard.press('n');
  await page.getByRole('combobox', { name: 'Band in words' }).fill('notch 50 Q 20');
  await expect(page.getByRole('option')).toHaveText(/Add: Notch, 50 Hz, 0.07 oct/);
  await page.keyboard.press('Enter');
  expect(bandsOf(await savedSong(page, songId), 'cello')).toMatchObject([
    { type: 'bell' },
    { type: 'high-shelf' },
    { type: 'notch', frequencyHz: 50, q: 20, letter: 'C' },
  ]);
  await page.getByRole('region', { name: 'Band C' }).getByRole('button', { name: 'Remove' }).click();
  expect(bandsOf(await savedSong(page, songId), 'cello')).toHaveLength(2);
});

test('kinds, on and off, notes, and the whole state after a reload', async ({ page }) => {
  await page.getByRole('button', { name: /^B Bell/ }).click();
  await page.getByRole('button', { name: 'Kind of band' }).click();
  await page.getByRole('option', { name: 'Low-pass (cuts highs)' }).click();
  await page.keyboard.press('o');
  await page.getByRole('textbox', { name: 'Why' }).fill('too bright');
  await page.keyboard.press('Enter');
  await page.getByRole('group', { name: 'Colour' }).getByRole('button', { name: 'Ink 3' }).click();
  await page.getByRole('region', { name: 'Track Lead voice' }).getByRole('textbox', { name: 'Position' }).fill('L 30');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Name' }).fill('Singer');
  await page.keyboard.press('Enter');
  const song = await savedSong(page, songId);
  expect(song.tracks.find((track) => track.id === VOICE)).toMatchObject({ name: 'Singer', ink: 2, pan: -0.3 });
  expect(bandsOf(song, VOICE)[1]).toMatchObject({ type: 'low-pass', enabled: false, note: 'too bright' });
  await page.reload();
  await expect(page.getByRole('group', { name: 'Singer', exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: /^B Low-pass/ })).toBeVisible();
  expect(await savedSong(page, songId)).toEqual(song);
});

test('the curve that is drawn is that of the coefficients that run', async ({ page }) => {
  // The high-pass of 90 Hz, order 3, the bell at 285 Hz and the shelf: read off the canvas where the line is dark.
  const height = await page.getByTestId('bench-curve').evaluate((element, hz) => {
    const canvas = element as HTMLCanvasElement;
    const ratio = canvas.width / canvas.clientWidth;
    const x = Math.round((Math.log(hz / 20) / Math.log(1000)) * canvas.clientWidth * ratio);
    const { data } = canvas.getContext('2d')!.getImageData(x, 0, 1, canvas.height);
    let [sum, weight] = [0, 0];
    for (let y = 0; y < canvas.height; y++) {
      const [r, g, b, a] = data.slice(4 * y, 4 * y + 4);
      const isInk = a > 200 && r < 60 && g < 70 && b < 90;
      if (isInk) [sum, weight] = [sum + y, weight + 1];
    }
    return { y: sum / weight / ratio, height: canvas.clientHeight };
  }, 150);
  // By hand: 3rd-order Butterworth at 150/90 Hz, −10·log10(1 + (90/150)^6) = −0.20 dB; the bell adds −0.60 dB there.
  const perDb = (height.height / 2 - 14) / 18;
  expect((height.height / 2 - height.y) / perDb).toBeCloseTo(-0.8, 0);
});

test('the crosshair tells hertz, note, cents and wavelength, through all lanes and the bench', async ({ page }) => {
  const lane = (await page.getByTestId('lane-field-cello').boundingBox())!;
  await page.mouse.move(lane.x + (Math.log(285 / 20) / Math.log(1000)) * lane.width, lane.y + 10);
  await expect(page.getByTestId('crosshair')).toContainText(/28[456] Hz · C♯4 \+\d\d ct · 1\.2 m/);
});

test('the ruler in notes, the height of the bench by key, and Space in a figure plays', async ({ page }) => {
  await page.getByRole('button', { name: /^Frequency axis/ }).click();
  await expect(page.getByText('C4', { exact: true })).toBeVisible();
  const divider = page.getByRole('separator', { name: 'Height of the bench' });
  const before = (await page.getByTestId('bench-field').boundingBox())!.height;
  await divider.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  expect((await page.getByTestId('bench-field').boundingBox())!.height).toBeGreaterThan(before + 40);
  await page.getByRole('region', { name: 'Band A' }).getByRole('textbox', { name: 'Slope' }).focus();
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
});

test('families of pass filters: looked at before they are taken, with the settings that mean something for them', async ({
  page,
}) => {
  const band = page.getByRole('region', { name: 'Band A' });
  await band.getByRole('button', { name: 'Family' }).click();
  await page.getByRole('option', { name: /Linkwitz-Riley/ }).hover();
  await expect(band.getByText('corner at −6 dB')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(band.getByText('corner at −3 dB')).toBeVisible();
  expect(bandsOf(await savedSong(page, songId), VOICE)[0]).toMatchObject({ family: 'butterworth', order: 3 });

  await band.getByRole('button', { name: 'Family' }).click();
  await page.getByRole('option', { name: /elliptic/ }).click();
  await band.getByRole('textbox', { name: 'Ripple' }).fill('0.5');
  await page.keyboard.press('Enter');
  await band.getByRole('textbox', { name: 'Stopband' }).fill('-60 dB');
  await page.keyboard.press('Enter');
  await expect(band.getByText('edge at −0.50 dB')).toBeVisible();
  expect(bandsOf(await savedSong(page, songId), VOICE)[0]).toMatchObject({
    family: 'elliptic',
    rippleDb: 0.5,
    stopbandDb: 60,
  });
  await undoAll(page, 3);
  expect(bandsOf(await savedSong(page, songId), VOICE)[0]).toMatchObject({
    family: 'butterworth',
    rippleDb: 1,
    stopbandDb: 40,
  });
});
