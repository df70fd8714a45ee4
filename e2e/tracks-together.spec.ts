import { add, choose, inChain, type } from './support/chain';
import { heardRanges, play } from './support/ear';
import { copyOfDemo, openSong, savedSong } from './support/song';
import { expect, test, type Page } from './support/test';

/** Several tracks of a song shaped together: microphones, groups, layers, one that gives way to another. */

/** Four beats of the demo, at 96 a minute. */
const BAR_SECONDS = 2.5;
/** The lowest notes of the choir, and what is above. */
const CHOIR_RANGES = [
  [180, 290],
  [800, 3000],
] as const;

let copyId: string;
test.beforeEach(async ({ page, request }) => {
  copyId = await copyOfDemo(request);
  await openSong(page, copyId);
});
const laneOf = (page: Page, id: string, name: string) =>
  page.getByTestId(`lane-${id}`).getByRole('button', { name, exact: true });

test('two microphones of one drum: found to be one source, aligned, heard, kept in one step, and no longer in each other’s way', async ({
  page,
}) => {
  await laneOf(page, 'frame-drum', 'Frame drum').click();
  await laneOf(page, 'frame-drum-underside', 'Drum underside').click({ modifiers: ['Control'] });
  await page.getByRole('button', { name: 'Find delay and polarity' }).click();
  const found = page.getByRole('group', { name: 'Add up' });
  await expect(found.getByText(/1\.\d\d ms earlier, turned/)).toBeVisible();
  await expect(found.getByRole('img')).toHaveAttribute('aria-label', /125 Hz \+\d/);
  // They are marked, and whoever is marked is chosen with the other.
  await expect(page.getByTestId('kin-frame-drum')).toHaveAttribute('title', 'One source with Drum underside');
  await expect(
    page.getByRole('region', { name: 'Track Frame drum' }).getByRole('button', { name: 'Drum underside', exact: true }),
  ).toBeVisible();
  // It is heard, not kept.
  await expect(page.getByText(/^Saved, revision 0$/)).toBeVisible();
  // A delay that is typed meanwhile counts: what was found is put away.
  const delay = page.getByRole('textbox', { name: 'Delay', exact: true });
  await delay.fill('2 ms');
  await page.keyboard.press('Enter');
  await expect(found.getByRole('button', { name: 'Keep' })).toBeHidden();
  await expect(delay).toHaveValue('2.00 ms');
  await page.keyboard.press('Control+z');
  await page.getByRole('button', { name: 'Find delay and polarity' }).click();
  await found.getByRole('button', { name: 'Hear it' }).click();
  await found.getByRole('button', { name: 'Keep' }).click();
  const underside = (await savedSong(page, copyId)).tracks.find(({ id }) => id === 'frame-drum-underside')!;
  expect(underside.polarityInverted).toBe(true);
  expect(underside.delayMs).toBeGreaterThan(-1.6);
  expect(underside.delayMs).toBeLessThan(-0.8);
  // What is aligned has nothing to be won any more; neither have strangers.
  await page.getByRole('button', { name: 'Find delay and polarity' }).click();
  await expect(found.getByText('nothing to be won, it adds up with Frame drum as it is.')).toBeVisible();
  await page.keyboard.press('Control+z');
  expect((await savedSong(page, copyId)).tracks.find(({ id }) => id === 'frame-drum-underside')).toMatchObject({
    delayMs: 0,
    polarityInverted: false,
  });
  await laneOf(page, 'cello', 'Cello').click();
  await laneOf(page, 'harmony-high', 'Harmony high').click({ modifiers: ['Control'] });
  await page.getByRole('button', { name: 'Find delay and polarity' }).click();
  await expect(found.getByText('too little in common with Cello')).toBeVisible();
});

test('a delay is typed in samples and stepped, of all that are chosen', async ({ page }) => {
  await laneOf(page, 'cello', 'Cello').click();
  await laneOf(page, 'dulcimer', 'Dulcimer').click({ modifiers: ['Control'] });
  const delay = page.getByRole('textbox', { name: 'Delay', exact: true });
  await delay.fill('−48 samples');
  await page.keyboard.press('Enter');
  await expect(delay).toHaveValue('−1.00 ms');
  await delay.focus();
  await page.keyboard.press('ArrowUp');
  await expect(delay).toHaveValue('−0.900 ms');
  const { tracks } = await savedSong(page, copyId);
  expect(tracks.filter(({ delayMs }) => delayMs === -0.9).map(({ id }) => id)).toEqual(['cello', 'dulcimer']);
});

test('harmony voices and concertina through one group: high-pass, compressor, two warm bells, a high shelf; measured from the sound, claimed, folded to one', async ({
  page,
}) => {
  await laneOf(page, 'concertina', 'Concertina').click();
  for (const [id, name] of [
    ['harmony-high', 'Harmony high'],
    ['harmony-low', 'Harmony low'],
  ])
    await laneOf(page, id, name).click({ modifiers: ['Control'] });
  await page.keyboard.press('Control+g');
  await type(page, 'Name', 'Choir');
  await page.getByRole('button', { name: 'Choir', exact: true }).click();
  for (const phrase of ['high pass 500 18', 'bell 280 2 1oct', 'bell 900 1.5 1oct', 'high shelf 9k 2']) {
    await page.keyboard.press('n');
    await page.keyboard.type(phrase);
    await page.keyboard.press('Enter');
  }
  await add(page, 'Compressor');
  await type(page, 'Threshold', '-40');
  await type(page, 'Ratio', '4');
  // Heard alone where they play, with and without: the compressor takes some of the level, the high-pass the lows.
  await page.getByRole('button', { name: 'Solo Choir' }).click();
  await page.getByTestId('song-strip').getByRole('button', { name: 'Far bank' }).click();
  const { loop } = await savedSong(page, copyId);
  // One bar of it, so that the same is heard each time.
  const bar = { ...loop!, endSeconds: loop!.startSeconds + BAR_SECONDS };
  await page.request.post(`/api/songs/${copyId}/edits`, {
    data: { clientId: 'test', edits: [{ id: 'bar', edit: { kind: 'song.set', changes: { loop: bar } } }] },
  });
  await play(page);
  const heard = async () => {
    const [lows, middle] = await heardRanges(page, CHOIR_RANGES, 2 * BAR_SECONDS);
    return { lows: lows - middle, middle };
  };
  const both = await heard();
  await page.keyboard.press('Shift+O');
  const uncompressed = await heard();
  expect(both.middle).toBeLessThan(uncompressed.middle - 3);
  await inChain(page, 'Equalizer').click();
  await page.keyboard.press('Shift+O');
  const plain = await heard();
  expect(uncompressed.lows).toBeLessThan(plain.lows - 6);
  for (const name of ['Equalizer', 'Compressor']) {
    await inChain(page, `${name}, off`).click();
    await page.keyboard.press('Shift+O');
  }
  await page.getByRole('button', { name: 'Stop' }).click();
  await page.getByRole('button', { name: 'Solo Choir' }).click();
  await type(page, 'Threshold', '-16');
  const { buses } = await savedSong(page, copyId);
  expect(buses[0]).toMatchObject({ name: 'Choir', chain: [{ kind: 'equalizer' }, { kind: 'compressor' }] });
  expect(buses[0].chain[0]).toMatchObject({ bands: { length: 4 } });
  // What the compressor does is measured in the background; until then levels are marked as estimates.
  await expect(page.getByText('12 tracks')).toHaveText('12 tracks');
  // A claim of its own, and its clearance in its lane.
  await page.getByRole('button', { name: 'Propose one' }).click();
  await expect(page.getByTestId(`clearance-${buses[0].id}`)).toBeVisible();
  // Folded, the group is one in the list of overlaps.
  await page.getByRole('button', { name: 'Fold Choir' }).click();
  await page.getByRole('tab', { name: 'Overlaps' }).click();
  const listed = page.getByRole('list', { name: /^Overlaps/ });
  await expect(listed.getByText(/Choir/).first()).toBeVisible();
  await expect(listed.getByText(/Concertina|Harmony/)).toHaveCount(0);
  // The group's edge is that of its tracks together.
  await page.getByRole('tab', { name: 'Edge' }).click();
  await expect(page.getByRole('figure', { name: 'Loss against the corner' })).toBeVisible();
});

test('the underside of the drum is gated and brought in, the stomp is split into thud and click, the bass gives way to the stomp', async ({
  page,
}) => {
  const rmsOf = async (stripId: string) => {
    await savedSong(page, copyId);
    const answer = await page.request.get(`/api/songs/${copyId}/measure?strip=${stripId}&from=20&to=30`);
    return ((await answer.json()) as { rmsDbfs: number }).rmsDbfs;
  };
  const open = await rmsOf('frame-drum-underside');
  await laneOf(page, 'frame-drum-underside', 'Drum underside').click();
  await add(page, 'Gate');
  await type(page, 'Threshold', '-14');
  const gated = await rmsOf('frame-drum-underside');
  expect(gated).toBeLessThan(open - 0.5);
  await type(page, 'Level', '0');
  expect((await rmsOf('frame-drum-underside')) - gated).toBeCloseTo(8, 1);

  const whole = await rmsOf('stomp');
  await laneOf(page, 'stomp', 'Stomp').click();
  await type(page, 'Layers', '300');
  const { buses, tracks } = await savedSong(page, copyId);
  const group = buses.find(({ name }) => name === 'Stomp')!;
  const [thud, click] = tracks.filter(({ outputId }) => outputId === group.id);
  // Untouched they are the stomp; of one source they are in nobody's way among themselves.
  expect(Math.abs((await rmsOf(group.id)) - whole)).toBeLessThan(0.1);
  await expect(page.getByTestId(`kin-${click.id}`)).toBeVisible();
  await page.getByRole('button', { name: `Mute ${thud.name}` }).click();
  expect(await rmsOf(group.id)).toBeLessThan(whole - 6);
  await page.getByRole('button', { name: `Mute ${thud.name}` }).click();

  const bass = await rmsOf('double-bass');
  await laneOf(page, 'double-bass', 'Double bass').click();
  await add(page, 'Ducker');
  await choose(page, 'Listens to', 'Stomp');
  await type(page, 'Threshold', '-40');
  await type(page, 'Depth', '9');
  expect(await rmsOf('double-bass')).toBeLessThan(bass - 0.7);
});
