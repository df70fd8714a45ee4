import { plainOrder } from '@/core/renders';
import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Locator, type Page } from './support/test';
import { newDataFolder } from './support/environment';
import { OwnServer } from './support/own-server';
import { copyOfDemo, openSong } from './support/song';
import { openList } from './support/within';

test('songs: new, rename, duplicate, delete with undo', async ({ page }) => {
  await openList(page);
  await page.getByRole('button', { name: 'New song…' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('Harbour Lights');
  // The rate by keys alone, too.
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await page.getByRole('option', { name: '96 kHz' }).press('Enter');
  await page.getByRole('textbox', { name: 'Title' }).press('Enter');
  await expect(page).toHaveURL(/\/songs\/[\w-]{12}$/);
  await expect(page.getByText('Drop the song’s recordings here')).toBeVisible();
  await expect(page.locator('footer')).toContainText('96 kHz');
  await page.getByRole('link', { name: 'Orvid' }).click();

  const act = async (title: string, action: string) => {
    await page.getByRole('button', { name: `What to do with ${title}`, exact: true }).click();
    await page.getByRole('menuitem', { name: action }).click();
  };
  await act('Harbour Lights', 'Rename…');
  await page.getByRole('textbox', { name: 'Title' }).fill('Harbour Lamps');
  await page.getByRole('button', { name: 'Rename' }).click();
  await expect(page.getByRole('link', { name: 'Harbour Lamps', exact: true })).toBeVisible();
  await act('Harbour Lamps', 'Duplicate');
  await expect(page.getByRole('link', { name: 'Harbour Lamps (copy)' })).toBeVisible();
  await act('Harbour Lamps', 'Delete');
  await expect(page.getByRole('link', { name: 'Harbour Lamps', exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('link', { name: 'Harbour Lamps', exact: true })).toBeVisible();
});

test('what another window has done is in the list when one comes back to it', async ({ page, request }) => {
  // A name of its own: a second try finds what the first one made.
  const title = `Elsewhere ${Date.now()}`;
  await openList(page);
  // What has been pressed and answered: by then the page listens to everything.
  await page.getByRole('button', { name: 'New song…' }).click();
  await page.getByRole('button', { name: 'Cancel', exact: true }).click();
  await request.post('/api/songs', { data: { title } });
  const song = page.getByRole('link', { name: title, exact: true });
  await expect(song).toHaveCount(0);
  await page.evaluate(() => document.dispatchEvent(new Event('visibilitychange')));
  await expect(song).toBeVisible();
});

test.describe('space', () => {
  // A server of its own: what is cleared here others may still need.
  const server = new OwnServer(4875, newDataFolder());
  test.beforeAll(() => server.start());
  test.afterAll(() => server.kill());

  test('what is used is told; what nobody needs any more is cleared on request, and played songs stay', async ({
    page,
    request,
  }) => {
    const at = (to: string) => `${server.url}${to}`;
    const ordered = await request.post(at('/api/songs/lantern-ferry/renders'), { data: plainOrder });
    const {
      jobs: [job],
    } = (await ordered.json()) as { jobs: { id: string }[] };
    const state = async () =>
      ((await (await request.get(at(`/api/jobs/${job.id}`))).json()) as { job: { state: string } }).job.state;
    await expect.poll(state).toBe('done');
    await openList(page, at('/songs'));
    await expect(page.getByText(/in use: recordings \d+ MB, renders \d/)).toBeVisible();
    await page.getByRole('button', { name: 'Clear it now…' }).click();
    await page.getByRole('button', { name: 'Clear it', exact: true }).click();
    await expect(page.getByText('renders 0 bytes')).toBeVisible();
    await expect(page.getByText('nobody needs any more')).toBeHidden();
    await page.goto(at('/songs/lantern-ferry'));
    await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
    await page.keyboard.press(' ');
    await expect(page.getByTestId('mix-peak')).toHaveText(/peak −\d/);
  });
});

test('a song that does not exist is said to be so', async ({ page }) => {
  const response = await page.goto('/songs/nowhere');
  expect(response!.status()).toBe(404);
  await expect(page.getByRole('heading', { name: 'There is nothing here' })).toBeVisible();
  await page.getByRole('link', { name: 'To the songs' }).click();
  await expect(page.getByRole('button', { name: 'New song…' })).toBeVisible();
});

/** By day and by night, where only the colours differ. */
async function audit(page: Page, part?: string): Promise<void> {
  for (const colorScheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme });
    // All is in one frame: no second page is opened to put the findings of several together.
    const axe = new AxeBuilder({ page }).setLegacyMode();
    if (part) axe.include(part);
    if (colorScheme === 'light') axe.withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']);
    else axe.withRules(['color-contrast']);
    const { violations } = await axe.analyze();
    expect(
      violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.html.slice(0, 120)).join(' | ')}`),
    ).toEqual([]);
  }
}

test.describe('accessibility', () => {
  test('the list of songs', async ({ page }) => {
    await openList(page);
    await audit(page);
  });
  test('the main view, the commands and the render sheet', async ({ page, request }) => {
    await openSong(page, await copyOfDemo(request));
    await audit(page);
    await page.keyboard.press('Control+k');
    await expect(page.getByRole('dialog')).toBeVisible();
    await audit(page);
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Render…' }).click();
    await audit(page);
  });
  test('working by ear: the side, the probe, the earshot, the sheets, eyes off', async ({ page, request }) => {
    const SIDE = '[role="tabpanel"]';
    const SHEET = '[role="dialog"]';
    await openSong(page, await copyOfDemo(request));
    await page.keyboard.press('Control+g');
    for (const key of ['2', '3', '4', '5', '6', '7', '8', '9']) {
      await page.keyboard.press(`Alt+${key}`);
      await audit(page, SIDE);
    }
    await page.getByTestId('lane-lead-voice').getByRole('button', { name: 'Lead voice', exact: true }).click();
    await page.keyboard.down('p');
    await page.keyboard.press('m');
    await page.keyboard.up('p');
    await page.keyboard.press('Control+k');
    await page.keyboard.type('Probe: begin');
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+k');
    await page.keyboard.type('Hear only the range of the band');
    await page.keyboard.press('Enter');
    await expect(page.getByTestId('earshot')).toBeVisible();
    await audit(page);
    await page.getByRole('slider', { name: 'Earshot, lower edge' }).press('Escape');
    await page.keyboard.press('Control+k');
    await page.keyboard.type('Compare blind');
    await page.keyboard.press('Enter');
    await audit(page, SHEET);
    await page.getByRole('button', { name: 'Begin', exact: true }).click();
    await audit(page, SHEET);
    await page.getByRole('button', { name: 'Break off' }).click();
    await page.keyboard.press('Shift+E');
    await audit(page);
    await page.keyboard.press('Control+g');
    await page.keyboard.press('Shift+E');
    await expect(page.getByRole('dialog')).toBeVisible();
    await audit(page, SHEET);
  });
});

test('day and night can be chosen, and stay chosen', async ({ page, request }) => {
  await openSong(page, await copyOfDemo(request));
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Commands' }).fill('night');
  await page.keyboard.press('Enter');
  await expect(page.locator('html')).toHaveAttribute('data-theme', /night|day/);
  const chosen = await page.locator('html').getAttribute('data-theme');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', chosen!);
});

test('tracks are chosen, moved and reached by key', async ({ page, request }) => {
  await openSong(page, await copyOfDemo(request));
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('region', { name: 'Track Harmony high' })).toBeVisible();
  await page.keyboard.press('Alt+ArrowUp');
  const lanes = page.getByRole('group', { name: 'Register' }).getByRole('group');
  await expect(lanes.nth(7)).toHaveAccessibleName('Harmony high');
  await page.keyboard.press('Control+z');
  await expect(lanes.nth(7)).toHaveAccessibleName('Lead voice');
});

test('where the system chooses the colours, what is chosen is seen, and tracks keep their inks', async ({
  page,
  request,
}) => {
  await openSong(page, await copyOfDemo(request));
  await page.emulateMedia({ forcedColors: 'active' });
  const colour = (of: Locator, what: 'borderBottomColor' | 'borderLeftColor' | 'backgroundColor') =>
    of.evaluate((element, name) => getComputedStyle(element)[name], what);
  const tab = (name: string) => page.getByRole('tab', { name });
  expect(await colour(tab('Track'), 'borderBottomColor')).not.toBe(await colour(tab('Room'), 'borderBottomColor'));
  const lane = (id: string) => page.getByTestId(`lane-${id}`);
  expect(await colour(lane('lead-voice'), 'borderLeftColor')).not.toBe(await colour(lane('cello'), 'borderLeftColor'));
  const ink = (n: number) => page.getByRole('button', { name: `Ink ${n}`, exact: true });
  expect(await colour(ink(1), 'backgroundColor')).not.toBe(await colour(ink(2), 'backgroundColor'));
  const mute = (id: string) => lane(id).getByRole('button', { name: /^Mute/ });
  await mute('cello').click();
  await expect
    .poll(() => colour(mute('cello'), 'backgroundColor'))
    .not.toBe(await colour(mute('claps'), 'backgroundColor'));
});
