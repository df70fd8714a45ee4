import type { Song } from '@/core/song';
import { expect, test, type Locator, type Page } from './support/test';
import { bandsOf, copyOfDemo, drag, openSong, savedSong } from './support/song';

/** The keyboard belongs to the main view, not to a field. */
const leaveFields = (page: Page) => page.getByRole('heading', { name: 'Register' }).click();
async function command(page: Page, text: string): Promise<void> {
  await page.keyboard.press('Control+k');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
}
const lane = (page: Page, trackId: string) => page.getByTestId(`lane-${trackId}`);
const choose = (page: Page, trackId: string, modifiers: ('Control' | 'Shift')[] = []) =>
  lane(page, trackId).getByRole('button').first().click({ modifiers });
const track = async (page: Page, songId: string, trackId: string) =>
  (await savedSong(page, songId)).tracks.find(({ id }) => id === trackId)!;

test('keys of another alphabet and of a Mac do what they do here; fingers on a touchpad are no storm of steps', async ({
  page,
  context,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  const ALT = 1;
  const CONTROL = 2;
  const devices = await context.newCDPSession(page);
  const press = async (key: string, code: string, modifiers = 0) => {
    for (const type of ['rawKeyDown', 'keyUp'] as const)
      await devices.send('Input.dispatchKeyEvent', { type, key, code, modifiers });
  };
  const voice = () => track(page, songId, 'lead-voice');
  await press('ь', 'KeyM');
  expect((await voice()).muted).toBe(true);
  await press('я', 'KeyZ', CONTROL);
  expect((await voice()).muted).toBe(false);
  await press('™', 'Digit2', ALT);
  await expect(page.getByRole('tab', { name: 'Compare' })).toHaveAttribute('aria-selected', 'true');

  const q = async () => bandsOf(await savedSong(page, songId), 'lead-voice')[1].q;
  const before = await q();
  const { x, y, width, height } = (await page.getByTestId('band-B').locator('[data-part="cap"]').boundingBox())!;
  const at = { x: x + width / 2, y: y + height / 2 };
  await page.mouse.move(at.x, at.y);
  for (let i = 0; i < 60; i++)
    await devices.send('Input.dispatchMouseEvent', { type: 'mouseWheel', ...at, deltaX: 0, deltaY: 5 });
  await expect.poll(q).toBeGreaterThan(before);
  // Three steps of a tenth; each pause that a busy machine makes is one more.
  expect(await q()).toBeLessThan(before * 1.1 ** 20);
});

test('typed commands: a band, a slope, a mute, a level, a track to go to; what is no phrase searches the commands', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await command(page, 'go cello');
  await command(page, 'bell 2.5k -3');
  await command(page, 'hp 120 18');
  expect(bandsOf(await savedSong(page, songId), 'cello')).toMatchObject([
    { type: 'bell', frequencyHz: 2500, gainDb: -3 },
    { type: 'high-pass', frequencyHz: 120, order: 3 },
  ]);
  await command(page, 'mute claps');
  await command(page, 'level dulcimer -7.5');
  expect((await track(page, songId, 'claps')).muted).toBe(true);
  expect((await track(page, songId, 'dulcimer')).gainDb).toBe(-7.5);
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z');
  expect((await track(page, songId, 'claps')).muted).toBe(false);
  expect(bandsOf(await savedSong(page, songId), 'cello')).toEqual([]);
  await command(page, 'mono on');
  await expect(page.getByRole('button', { name: 'Mono' })).toHaveAttribute('aria-pressed', 'true');
  // What Enter runs stands first and is seen, though the answers change places as one types.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('re');
  const first = page.locator('[cmdk-item][data-selected=true]');
  await expect(first).toHaveText(/^Redo/);
  await expect(first).toBeInViewport({ ratio: 1 });
  await page.keyboard.press('Escape');
  // Letters that are strewn over the name of a command do not mean it; another word for it does.
  await command(page, 'mtpb');
  await expect(page.getByText(/^No such command/)).toBeVisible();
  await page.keyboard.press('Escape');
  await command(page, 'export stems');
  await expect(page.getByRole('dialog', { name: 'Render' })).toBeVisible();
});

test('a band and a whole equalizer are copied and pasted by key, and dragged to other tracks', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await page.getByRole('button', { name: /^B Bell/ }).click();
  await page.keyboard.press('Control+c');
  await choose(page, 'cello');
  await choose(page, 'dulcimer', ['Control']);
  await page.keyboard.press('Control+v');
  for (const id of ['cello', 'dulcimer'])
    expect(bandsOf(await savedSong(page, songId), id)).toMatchObject([{ type: 'bell', frequencyHz: 285, letter: 'A' }]);
  await page.keyboard.press('Control+z');
  expect(bandsOf(await savedSong(page, songId), 'dulcimer')).toEqual([]);

  await choose(page, 'lead-voice');
  await page.keyboard.press('Control+Alt+c');
  await choose(page, 'cello');
  await page.keyboard.press('Control+v');
  expect(bandsOf(await savedSong(page, songId), 'cello').map(({ type }) => type)).toEqual([
    'high-pass',
    'bell',
    'high-shelf',
  ]);
  await choose(page, 'lead-voice');
  await page.getByRole('button', { name: /^C High shelf/ }).dragTo(lane(page, 'room'));
  expect(bandsOf(await savedSong(page, songId), 'room')).toMatchObject([{ type: 'high-shelf', letter: 'A' }]);
  await page.locator('[aria-label="Bench"] header span[draggable]').dragTo(lane(page, 'claps'));
  expect(bandsOf(await savedSong(page, songId), 'claps')).toHaveLength(3);
});

test('an equalizer is saved under a name, found again in another song, used on several tracks, dragged, deleted and brought back', async ({
  page,
  request,
}) => {
  await openSong(page, await copyOfDemo(request));
  await page.keyboard.press('Alt+3');
  const name = page.getByRole('textbox', { name: 'Name for this equalizer' });
  for (const typed of ['Voice, bright', 'Two', 'Three', 'Four', 'Five']) {
    await name.fill(typed);
    await name.press('Enter');
    await expect(page.getByRole('button', { name: `Use ${typed}`, exact: true })).toBeVisible();
  }
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await page.keyboard.press('Alt+3');
  await page.getByRole('textbox', { name: 'Find what was saved' }).fill('bright');
  await expect(page.getByRole('button', { name: 'Use Two', exact: true })).toHaveCount(0);
  await choose(page, 'harmony-high');
  await choose(page, 'harmony-low', ['Shift']);
  await page.getByRole('button', { name: 'Use Voice, bright' }).click();
  for (const id of ['harmony-high', 'harmony-low']) expect(bandsOf(await savedSong(page, songId), id)).toHaveLength(3);
  await page.getByText('Voice, bright').dragTo(lane(page, 'cello'));
  expect(bandsOf(await savedSong(page, songId), 'cello')).toHaveLength(3);
  await page.getByRole('button', { name: 'Delete Voice, bright' }).click();
  await expect(page.getByRole('button', { name: 'Use Voice, bright' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Bring it back' }).click();
  await expect(page.getByRole('button', { name: 'Use Voice, bright' })).toBeVisible();
});

test('a layout fences its bands; a fence is set, and nothing leaves it', async ({ page, request }) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await choose(page, 'cello');
  await page.keyboard.press('Alt+3');
  await page.getByRole('button', { name: 'Use Five in their fences' }).click();
  expect(bandsOf(await savedSong(page, songId), 'cello')).toHaveLength(5);
  await page.getByRole('button', { name: /^C Bell/ }).click();
  const cap = page.locator('[data-testid="band-C"] [data-part="cap"]');
  await drag(page, cap, 400, -30);
  expect(bandsOf(await savedSong(page, songId), 'cello')[2]).toMatchObject({ frequencyHz: 900 });
  await page.getByRole('textbox', { name: 'Upper fence' }).fill('1.2k');
  await page.getByRole('textbox', { name: 'Upper fence' }).press('Enter');
  await page.getByRole('textbox', { name: 'Frequency' }).fill('5k');
  await page.getByRole('textbox', { name: 'Frequency' }).press('Enter');
  expect(bandsOf(await savedSong(page, songId), 'cello')[2]).toMatchObject({
    frequencyHz: 1200,
    limits: { minHz: 150, maxHz: 1200 },
  });
  await page.getByRole('button', { name: /(^|\s)Place$/ }).click();
  await page.getByRole('option', { name: 'Free to move' }).click();
  expect(bandsOf(await savedSong(page, songId), 'cello')[2].limits).toBeNull();
});

test('match: previewed, its strength chosen by key, kept as bands with a note in one step, or left', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await choose(page, 'harmony-low');
  await page.keyboard.press('Alt+3');
  const matchTo = async (name: string) => {
    await page.getByRole('button', { name: /Match to$/ }).click();
    await page.getByRole('option', { name, exact: true }).click();
  };
  const revision = async () => (await (await request.get(`/api/songs/${songId}`)).json()).revision as number;
  await matchTo('Harmony high');
  await expect(page.getByText(/^[1-6] bands?, on the bench now$/)).toBeVisible();
  await expect(page.locator('[data-testid^="band-"] b.cap').first()).toBeVisible();
  expect(await revision()).toBe(0);
  await page.getByRole('button', { name: 'Leave it' }).click();
  await expect(page.locator('[data-testid^="band-"]')).toHaveCount(0);
  await matchTo('Harmony high');
  const strength = page.getByRole('slider', { name: 'Strength' });
  await strength.focus();
  await page.keyboard.press('End');
  await expect(page.getByText('100 %')).toBeVisible();
  await page.getByRole('button', { name: 'Keep them' }).click();
  const bands = bandsOf(await savedSong(page, songId), 'harmony-low');
  expect(bands.length).toBeGreaterThan(2);
  expect(bands.length).toBeLessThanOrEqual(6);
  expect(bands[0].note).toBe('matched to Harmony high');
  await leaveFields(page);
  await page.keyboard.press('Control+z');
  expect(bandsOf(await savedSong(page, songId), 'harmony-low')).toEqual([]);
});

test('company: up to three spectra with their names, read by the crosshair; held peaks, tilt and speed', async ({
  page,
  request,
}) => {
  await openSong(page, await copyOfDemo(request));
  await page.keyboard.press('Alt+4');
  for (const name of ['Cello', 'Concertina']) {
    await page.getByRole('checkbox', { name: `${name} in company` }).focus();
    // Space belongs to a button for those who come to it by keyboard.
    await page.keyboard.press('Shift+Tab');
    await page.keyboard.press('Tab');
    await page.keyboard.press('Space');
    await expect(page.getByRole('checkbox', { name: `${name} in company` })).toBeChecked();
  }
  await leaveFields(page);
  const bench = (await page.getByTestId('bench-field').boundingBox())!;
  await page.mouse.move(bench.x + 300, bench.y + 60);
  const crosshair = page.getByTestId('crosshair');
  await expect(crosshair).toContainText(/Lead voice −\d+\.\d dB\nCello −\d+\.\d dB\nConcertina −\d+\.\d dB/);
  const inked = () =>
    page
      .locator('[data-testid="bench-field"] canvas')
      .first()
      .evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        let sum = 0;
        for (let i = 3; i < data.length; i += 4) sum += data[i];
        return sum;
      });
  const before = await inked();
  await page.getByRole('textbox', { name: 'Tilt of the spectra' }).fill('4.5');
  await page.getByRole('textbox', { name: 'Tilt of the spectra' }).press('Enter');
  await expect(page.getByRole('textbox', { name: 'Tilt of the spectra' })).toHaveValue('4.5 dB/oct');
  await expect.poll(inked).not.toBe(before);
  await page.getByRole('button', { name: 'Hold peaks' }).click();
  await page.getByRole('button', { name: /Live spectra$/ }).click();
  await page.getByRole('option', { name: 'slow' }).click();
  await leaveFields(page);
  await page.keyboard.press(' ');
  await page.waitForTimeout(1500);
  const playing = await inked();
  await page.getByRole('button', { name: 'None', exact: true }).click();
  await expect.poll(inked).toBeLessThan(playing);
});

test('Eyes off: plain paper, controls that work, remembered, one key back, and what was changed is told', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await expect(page.getByText(/matched −\d/)).toBeVisible();
  await page.keyboard.press('Shift+E');
  /** How much of each canvas is drawn on, from 0 to 1. */
  const inked = (canvases: Locator) =>
    canvases.evaluateAll((all) =>
      all.map((element) => {
        const canvas = element as HTMLCanvasElement;
        const { data } = canvas
          .getContext('2d')!
          .getImageData(0, 0, Math.max(1, canvas.width), Math.max(1, canvas.height));
        return data.filter((value, i) => i % 4 === 3 && value > 0).length / (data.length / 4);
      }),
    );
  // In the song strip parts and loop stay.
  const strip = page.getByTestId('song-strip').locator('canvas');
  await expect.poll(async () => (await inked(strip))[0]).toBeLessThan(0.1);
  expect((await inked(strip))[0]).toBeGreaterThan(0);
  const others = async () =>
    (await inked(page.locator('main canvas:not([data-testid="song-strip"] canvas)'))).some(Boolean);
  await expect.poll(others).toBe(false);
  await expect(page.getByTestId('mix-peak')).toBeHidden();
  await expect(page.getByRole('textbox', { name: 'Corner' })).toHaveCSS('color', 'rgba(0, 0, 0, 0)');
  await page.reload();
  await expect.poll(others).toBe(false);
  await page.getByRole('slider', { name: 'Lead voice, high-pass (cuts lows)' }).focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
  expect(bandsOf(await savedSong(page, songId), 'lead-voice')[0].frequencyHz).toBeGreaterThan(90);
  await page.keyboard.press('Shift+E');
  await expect(page.getByRole('dialog')).toContainText(/Lead voice: high-pass 90 → 98\.\d Hz/);
  await page.getByRole('button', { name: 'Look' }).click();
  expect(await others()).toBe(true);
});

test('landmarks: for the track’s part, on the ruler, switched, changed, and back to common practice', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  const ruler = page.getByRole('button', { name: /^Frequency axis/ });
  await expect(ruler.getByText('mud')).toBeVisible();
  await page.keyboard.press('Alt+5');
  await page.getByRole('button', { name: 'Change “mud”' }).click();
  await page.getByRole('textbox', { name: 'What lies there' }).fill('fog');
  await page.getByRole('textbox', { name: 'From' }).fill('5k');
  await expect(page.getByText('The lower edge lies above the upper one.')).toBeVisible();
  await page.getByRole('textbox', { name: 'From' }).fill('140');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(ruler.getByText('fog')).toBeVisible();
  expect((await savedSong(page, songId)).landmarks).toContainEqual(
    expect.objectContaining({ what: 'fog', lowHz: 140, highHz: 250 }),
  );
  await page.getByRole('button', { name: 'Back to common practice' }).click();
  await expect(ruler.getByText('mud')).toBeVisible();
  await page.getByRole('button', { name: 'On the ruler' }).click();
  await expect(ruler.getByText('mud')).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
  await expect(ruler.getByText('mud')).toHaveCount(0);
});

test('groups: made of chosen tracks, folded, filled by dragging, taken apart; chosen tracks are set together', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await choose(page, 'harmony-high');
  await choose(page, 'harmony-low', ['Control']);
  await page.keyboard.press('m');
  for (const id of ['harmony-high', 'harmony-low']) expect((await track(page, songId, id)).muted).toBe(true);
  const level = page.getByRole('textbox', { name: 'Level', exact: true });
  await level.focus();
  await page.keyboard.press('ArrowDown');
  for (const id of ['harmony-high', 'harmony-low']) expect((await track(page, songId, id)).gainDb).toBe(-3.5);
  await leaveFields(page);
  await page.keyboard.press('Control+g');
  const { id: busId } = (await savedSong(page, songId)).buses[0];
  expect((await track(page, songId, 'harmony-low')).outputId).toBe(busId);
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Harmonies');
  await page.getByRole('textbox', { name: 'Name', exact: true }).press('Enter');
  await page.getByRole('button', { name: 'Fold Harmonies' }).click();
  await expect(lane(page, 'harmony-low')).toHaveCount(0);
  await page.getByRole('button', { name: 'Show the tracks of Harmonies' }).click();
  await expect(lane(page, 'harmony-low')).toBeVisible();
  // The lead voice is dragged from above the group onto it.
  const [from, onto] = [await lane(page, 'lead-voice').boundingBox(), await lane(page, busId).boundingBox()];
  await drag(
    page,
    lane(page, 'lead-voice').getByRole('button', { name: 'Lead voice', exact: true }),
    0,
    onto!.y - from!.y,
  );
  expect((await track(page, songId, 'lead-voice')).outputId).toBe(busId);
  await page.keyboard.press('Control+z');
  expect((await track(page, songId, 'lead-voice')).outputId).toBe('master');
  await choose(page, busId);
  await command(page, 'Take the group apart');
  expect((await savedSong(page, songId)).buses).toEqual([]);
  expect((await track(page, songId, 'harmony-low')).outputId).toBe('master');
});

test.describe('by touch', () => {
  test.use({ hasTouch: true });

  test('a post in its lane and the cap of a bell are dragged by a finger', async ({ page, request }) => {
    const songId = await copyOfDemo(request);
    await openSong(page, songId);
    const cdp = await page.context().newCDPSession(page);
    const slide = async (x: number, y: number, dx: number, dy: number) => {
      const touch = (type: string, points: object[]) =>
        cdp.send('Input.dispatchTouchEvent', { type: type as 'touchStart', touchPoints: points as [] });
      await touch('touchStart', [{ x, y }]);
      for (let i = 1; i <= 6; i++) await touch('touchMove', [{ x: x + (dx * i) / 6, y: y + (dy * i) / 6 }]);
      await page.waitForTimeout(60);
      await touch('touchEnd', []);
    };
    const post = (await page.getByRole('slider', { name: 'Lead voice, high-pass (cuts lows)' }).boundingBox())!;
    await slide(post.x + 10, post.y + post.height / 2, 60, 0);
    const bands = async () => bandsOf(await savedSong(page, songId), 'lead-voice');
    expect((await bands())[0].frequencyHz).toBeGreaterThan(130);
    const cap = (await page.locator('[data-testid="band-B"] [data-part="cap"] .cap').boundingBox())!;
    await slide(cap.x + 7, cap.y + 6, 80, -60);
    const bell = (await bands())[1];
    expect(bell.frequencyHz).toBeGreaterThan(400);
    expect(bell.gainDb).toBeGreaterThan(0);
  });

  test('two fingers on the song strip show less of it, draw no loop and move no playhead; one finger does', async ({
    page,
    request,
  }) => {
    const songId = await copyOfDemo(request);
    const { loop } = (await (await request.get(`/api/songs/${songId}`)).json()).song as Song;
    await openSong(page, songId);
    const cdp = await page.context().newCDPSession(page);
    const touch = (type: string, places: number[]) =>
      cdp.send('Input.dispatchTouchEvent', {
        type: type as 'touchStart',
        touchPoints: places.map((x, id) => ({ x, y, id })),
      });
    const box = (await page.getByTestId('song-strip').boundingBox())!;
    const y = box.y + 22;
    const at = (share: number) => box.x + share * box.width;
    await touch('touchStart', [at(0.4)]);
    await touch('touchMove', [at(0.42)]);
    await touch('touchStart', [at(0.42), at(0.6)]);
    for (let i = 1; i <= 6; i++) await touch('touchMove', [at(0.42 - 0.05 * i), at(0.6 + 0.05 * i)]);
    await touch('touchEnd', []);
    // 0.18 of the song fill 0.78 of the strip.
    const { lengthFrames } = (await savedSong(page, songId)).tracks[0];
    const seconds = lengthFrames / 48000;
    const label = page
      .getByTestId('song-strip')
      .locator('xpath=..')
      .getByText(/ shown$/);
    /** How far what is shown, in words, is from what the fingers hold, seconds. */
    const off = async () => {
      const times = (await label.textContent())!.matchAll(/(\d+):(\d+\.\d)/g);
      const [from, to] = [...times].map(([, m, s]) => 60 * Number(m) + Number(s));
      const width = (0.18 / 0.78) * seconds;
      return Math.max(Math.abs(to - from - width), Math.abs(from - (0.42 * seconds - 0.12 * width)));
    };
    await expect.poll(off).toBeLessThan(0.5);
    expect((await savedSong(page, songId)).loop).toEqual(loop);
    const position = page.getByTestId('position');
    await expect(position).toHaveText('0:00.0');
    await touch('touchStart', [at(0.1)]);
    await touch('touchEnd', []);
    await expect(position).not.toHaveText('0:00.0');
  });
});
