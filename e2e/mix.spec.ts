import type { Route } from '@playwright/test';
import { expect, test } from './support/test';
import { bandsOf, copyOfDemo, openSong, savedSong, tick } from './support/song';

/** Who is in whose way, in the running application. */

test('a claim is drawn by pointer and moved by keyboard; its track gets a clearance; undo takes it back', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  // Without levels there is no clearance yet.
  let bringLevels = () => {};
  const isWanted = new Promise<void>((done) => (bringLevels = done));
  await page.route('**/api/band-levels/*', async (route) => {
    await isWanted;
    await route.continue();
  });
  await openSong(page, id);
  const name = page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true });
  const roomOfName = async () => (await name.boundingBox())!.width;
  const roomWithoutClearances = await roomOfName();
  bringLevels();
  const ground = page.getByTestId('claim-ground-concertina');
  const box = (await ground.boundingBox())!;
  await page.mouse.move(box.x + 0.55 * box.width, box.y + box.height / 2);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(box.x + (0.55 + 0.02 * i) * box.width, box.y + box.height / 2);
  await page.waitForTimeout(40);
  await page.mouse.up();
  const claimOf = async () => (await savedSong(page, id)).tracks.find((track) => track.id === 'concertina')!.claims;
  await expect.poll(async () => (await claimOf()).length).toBe(1);
  const [drawn] = await claimOf();
  // A tenth of three decades: a doubling.
  expect(drawn.highHz / drawn.lowHz).toBeGreaterThan(1.9);
  expect(drawn.highHz / drawn.lowHz).toBeLessThan(2.1);
  await expect(page.getByTestId('clearance-concertina')).toHaveText(/^[+−]?\d/);
  // As long as no track has a clearance, names have its place.
  expect(roomWithoutClearances - (await roomOfName())).toBeGreaterThan(25);

  const upper = page.getByRole('slider', { name: 'Concertina, claim 1, upper edge' });
  await upper.focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect.poll(async () => (await claimOf())[0].highHz).toBeGreaterThan(drawn.highHz * 1.2);
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await claimOf()).length).toBe(0);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await claimOf()).length).toBe(0);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(claimOf).toEqual([drawn]);

  await page.getByTestId('lane-concertina').getByRole('button', { name: 'Concertina', exact: true }).click();
  await page.getByRole('textbox', { name: 'Claim 1, lower edge' }).fill('400');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await claimOf())[0].lowHz).toBe(400);
});

test('an overlap is heard, room is made in it and undone, another is left', async ({ page, request }) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await page.keyboard.press('Alt+6');
  const list = page.getByRole('list', { name: 'Overlaps, the worst first' });
  const stomp = list.getByRole('listitem', { name: /^Stomp under Double bass|^Double bass under Stomp/ }).first();
  await expect(stomp).toBeVisible();

  await stomp.getByRole('button', { name: /^Hear it/ }).click();
  await expect(page.getByText(/of the two is heard/)).toBeVisible();
  await expect(page.getByTestId('earshot')).toBeVisible();
  let song = await savedSong(page, id);
  expect(song.tracks.filter(({ soloed }) => soloed).map((track) => track.id)).toEqual(['stomp', 'double-bass']);
  expect(song.loop!.enabled).toBe(true);
  await page.getByRole('button', { name: 'Hear everything again' }).click();
  song = await savedSong(page, id);
  expect(song.tracks.some(({ soloed }) => soloed)).toBe(false);
  expect(song.loop!.enabled).toBe(false);
  await page.keyboard.press('Space');

  const cello = list.getByRole('listitem', { name: /(Cello|Lead voice) under (Cello|Lead voice)/ }).first();
  await cello.getByRole('button', { name: /^Make room/ }).click();
  const moves = page.getByRole('group', { name: 'Make room' });
  await expect(moves).toBeVisible();
  // What is tried is heard and seen, but not kept.
  const before = await savedSong(page, id);
  await moves.getByRole('textbox', { name: 'Wanted clearance' }).fill('9');
  await page.keyboard.press('Enter');
  const keep = moves.getByRole('button', { name: 'Keep the moves' });
  await expect(keep).toBeEnabled();
  expect((await savedSong(page, id)).tracks).toEqual(before.tracks);
  await keep.click();
  const yields = (state: typeof song) =>
    ['cello', 'lead-voice']
      .flatMap((track) => bandsOf(state, track))
      .filter(({ note }) => note?.startsWith('makes room for'));
  await expect.poll(async () => yields(await savedSong(page, id)).length).toBe(1);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => yields(await savedSong(page, id)).length).toBe(0);

  const lines = await list.getByRole('listitem').count();
  const first = list.getByRole('listitem').first();
  const name = await first.getAttribute('aria-label');
  await first.getByRole('button', { name: /^Leave it/ }).click();
  await expect(page.getByRole('button', { name: /that was left/ })).toBeVisible();
  await expect(list.getByRole('listitem', { name: name!, exact: true })).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
  await page.keyboard.press('Alt+6');
  await expect(page.getByRole('button', { name: /that was left/ })).toBeVisible();
  await page.getByRole('button', { name: /that was left/ }).click();
  await expect(list.getByRole('listitem', { name: name!, exact: true })).toHaveCount(1);
  expect(lines).toBeGreaterThan(3);
});

test('an edge is set with one press, just short of what is missed', async ({ page, request }) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true }).click();
  await page.keyboard.press('Alt+7');
  const set = page.getByRole('button', { name: 'Set it there: In the mix' });
  await expect(set).toBeVisible();
  await expect(page.getByRole('figure', { name: 'Loss against the corner' })).toBeVisible();
  await expect(page.getByText(/What limits it is at 0:\d\d/)).toBeVisible();
  await set.click();
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'cello').length).toBe(1);
  const [band] = bandsOf(await savedSong(page, id), 'cello');
  expect(band).toMatchObject({ type: 'high-pass', order: 3 });
  expect(band.frequencyHz).toBeGreaterThan(60);
  expect(band.frequencyHz).toBeLessThan(400);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'cello').length).toBe(0);
});

test('a suspect is heard before it is taken, and comes as a band that fits it', async ({ page, request }) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await page.getByTestId('lane-frame-drum').getByRole('button', { name: 'Frame drum', exact: true }).click();
  await page.keyboard.press('Alt+8');
  const list = page.getByRole('list', { name: 'Suspects, the surest first' });
  const ring = list.getByRole('listitem', { name: /^Resonance, 6[789]\d Hz/ });
  await expect(ring).toBeVisible();
  const takeIt = ring.getByRole('button', { name: /^Take it/ });
  await expect(takeIt).toBeDisabled();
  await ring.getByRole('button', { name: /^Hear it/ }).click();
  await expect(page.getByTestId('earshot')).toBeVisible();
  await expect(takeIt).toBeEnabled();
  await takeIt.click();
  await expect(page.getByTestId('earshot')).toHaveCount(0);
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'frame-drum').length).toBe(1);
  const [band] = bandsOf(await savedSong(page, id), 'frame-drum');
  expect(band.type).toBe('bell');
  expect(band.gainDb).toBeLessThan(-2);
  // The planted ring is at 690 Hz.
  expect(Math.abs(band.frequencyHz / 690 - 1)).toBeLessThan(0.03);
});

test('all ends are cleaned after a look at the list, as one step; kick and bass keep their lows', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await page.keyboard.press('Alt+7');
  await page.getByRole('button', { name: 'Clean all ends…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Clean all ends' });
  const ends = dialog.getByRole('listitem');
  await expect(ends.first()).toBeVisible();
  const proposed = await ends.count();
  expect(proposed).toBeGreaterThan(6);
  await tick(dialog.getByRole('checkbox', { name: /Dulcimer high-pass/ }));
  await dialog.getByRole('button', { name: `Set ${proposed - 1} ends` }).click();
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'stomp').length).toBeGreaterThan(0);
  const song = await savedSong(page, id);
  const highPass = (track: string) => bandsOf(song, track).find(({ type }) => type === 'high-pass')?.frequencyHz;
  expect(highPass('stomp')).toBe(32);
  expect(highPass('double-bass')).toBe(32);
  expect(highPass('dulcimer')).toBeUndefined();
  expect(highPass('harmony-high')).toBeGreaterThan(80);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'stomp').length).toBe(0);
  expect(bandsOf(await savedSong(page, id), 'harmony-high')).toEqual([]);
});

test('the fullest stretch is looped', async ({ page, request }) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await expect(page.getByTestId('mix-loudness')).toHaveText(/≈ −\d+\.\d LUFS/);
  await page.getByRole('button', { name: 'Fullest stretch' }).click();
  await expect.poll(async () => (await savedSong(page, id)).loop!.enabled).toBe(true);
  // All twelve tracks play in the far bank, 0:20 to 0:30.
  const { startSeconds, endSeconds } = (await savedSong(page, id)).loop!;
  expect(startSeconds).toBeGreaterThanOrEqual(19);
  expect(endSeconds).toBeLessThanOrEqual(32);
});

test('the meters read what plays, and the loop is measured as the engine renders it', async ({ page, request }) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await page.keyboard.press('Alt+9');
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  const live = page.getByLabel('Live meters');
  await expect(live.getByText(/−\d+\.\d LUFS/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await page.getByRole('button', { name: 'Measure it' }).click();
  const measured = page.getByLabel('The mix, measured');
  await expect(measured).toBeVisible();
  await expect(measured.getByText(/dBTP/)).toBeVisible();
  const shown = Number((await page.getByTestId('mix-loudness').innerText()).match(/−(\d+\.\d) LUFS/)![1]);
  expect(shown).toBeGreaterThan(10);
  expect(shown).toBeLessThan(30);
  // Of the chosen track, range by range, on the axis of the bench.
  await page.getByRole('button', { name: /Curve of the bench$/ }).click();
  await page.getByRole('option', { name: 'Correlation, sides' }).click();
  await expect(page.getByTestId('bench-field')).toHaveAttribute('data-image', 'measured');
});

test('the score: every track, sorted by a column, printed without what is for the screen', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  const ofCello = '**/measure?strip=cello*';
  const error = { code: 'damaged', message: 'Cello: its recording is damaged from 0:12.' };
  const refuse = (route: Route) => route.fulfill({ status: 500, json: { error } });
  await page.route(ofCello, refuse);
  await page.route('**/measure', refuse, { times: 1 });
  await page.goto(`/songs/${id}/score`);
  const table = page.getByRole('grid', { name: 'Score' });
  // Nobody is told to claim a range where there are claims, though their clearances are still on their way.
  await expect(table).toBeVisible();
  expect(await page.getByText('Claims make the score').count()).toBe(0);
  // One that cannot be measured keeps no other from it, and is measured when it can be.
  const problem = page.getByRole('alert').filter({ hasText: error.message });
  await expect(table.getByText('…')).toHaveCount(3);
  await expect(problem).toContainText('The score could not be measured in full.');
  await page.unroute(ofCello);
  // What can be measured in one render is not asked for by itself.
  const byThemselves: string[] = [];
  page.on('request', (asked) => asked.url().includes('measure?') && byThemselves.push(asked.url()));
  await problem.getByRole('button', { name: 'Try again' }).click();
  await expect(problem).toBeHidden();
  await expect(table.getByText('…')).toHaveCount(0);
  expect(byThemselves).toEqual([]);
  await expect(table.getByRole('row')).toHaveCount(14);
  const loudness = table.getByRole('row', { name: /^Mix/ });
  await expect(loudness).toHaveText(/LUFS.*dBTP/);
  await expect(page.getByRole('figure', { name: /Clearance before and after/ })).toBeVisible();
  // Clearances are estimates at first, then measured with what reacts to levels and what is one source.
  await expect(page.getByRole('status')).toHaveText('', { timeout: 60_000 });
  await expect(table.getByText('≈')).toHaveCount(0);
  await table.getByRole('columnheader', { name: /^after/ }).click();
  await expect(table.getByRole('row').last()).toHaveText(/^Mix/);
  const clearances = await table.getByRole('row').evaluateAll((rows) =>
    rows.flatMap((row) => {
      const text = row.children[3]?.textContent ?? '';
      return /dB$/.test(text) ? [Number(text.replace('−', '-').replace('+', '').replace(' dB', ''))] : [];
    }),
  );
  expect(clearances.length).toBeGreaterThan(3);
  expect(clearances).toEqual([...clearances].sort((a, b) => a - b));
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('button', { name: 'Print…' })).toBeHidden();
  const pdf = await page.pdf({ format: 'A4', landscape: true });
  expect(pdf.length).toBeGreaterThan(5000);
  await page.emulateMedia({ media: 'screen' });
  await page.getByRole('link', { name: 'how it is measured' }).click();
  await expect(page.getByRole('heading', { name: 'A worked example' })).toBeVisible();
});
