import type { Song } from '@/core/song';
import { add, choose, inChain, type } from './support/chain';
import { change, heardTones, play, TONES_HZ, toneSong } from './support/ear';
import { drag, openSong, savedSong } from './support/song';
import { expect, test, type Page } from './support/test';

/** Chains of any kind on tracks that are tones, by pointer and by keys; what the page's own audio thread plays is overheard. */

const LOWS = TONES_HZ.filter((hz) => hz < 500);
const HIGHS = TONES_HZ.filter((hz) => hz > 1500);
let songId: string;
let bassId: string;
let kickId: string;

/** Adds a compressor that takes some 7 dB of the tones of the chosen track. */
async function compress(page: Page): Promise<void> {
  await add(page, 'Compressor');
  await type(page, 'Threshold', '-46');
  await type(page, 'Release', '4 s');
  await page.getByRole('button', { name: /^Limit/ }).click();
}
const kindsOf = (song: Song, id: string) => song.tracks.find((track) => track.id === id)!.chain.map(({ kind }) => kind);
/** Hears until what was changed has come in: on a busy machine that takes a while. */
const expectHeard = (page: Page, read: (levels: Map<number, number>) => number) =>
  expect.poll(async () => read(await heardTones(page)));
/** The most that some tones are changed by, dB. */
const mostOf = (before: Map<number, number>, tones: readonly number[]) => (after: Map<number, number>) =>
  Math.max(...tones.map((hz) => Math.abs(change(before, after).get(hz)!)));

/** How much of a range of tones two hearings differ by, dB: the mean, and how far any of them is from it. */
function changeOf(before: Map<number, number>, after: Map<number, number>, tones: readonly number[]) {
  const all = tones.map((hz) => change(before, after).get(hz)!);
  const mean = all.reduce((sum, db) => sum + db, 0) / all.length;
  return { mean, apart: Math.max(...all.map((db) => Math.abs(db - mean))) };
}

test.beforeEach(async ({ page, request }) => {
  const song = await toneSong(request, { Bass: LOWS, Kick: HIGHS });
  songId = song.songId;
  [bassId, kickId] = song.trackIds;
  await openSong(page, songId);
  await page.getByTestId(`lane-${bassId}`).getByRole('button', { name: 'Bass', exact: true }).click();
});

test('a compressor: added, its threshold typed, dragged and stepped; heard, seen over the loop, switched off by key', async ({
  page,
}) => {
  await play(page);
  const plain = await heardTones(page);
  await compress(page);
  await expectHeard(page, (levels) => changeOf(plain, levels, LOWS).mean).toBeLessThan(-6);
  await expectHeard(page, (levels) => changeOf(plain, levels, LOWS).apart).toBeLessThan(1);
  await expectHeard(page, mostOf(plain, HIGHS)).toBeLessThan(0.2);
  await expect(page.getByTestId('processor-field')).toHaveAttribute('data-observed', 'true');
  // Its line in the picture: by key, then by pointer.
  const line = page.getByRole('slider', { name: 'Threshold' });
  await line.focus();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('textbox', { name: 'Threshold', exact: true })).toHaveValue('−43.0 dB');
  const box = (await line.boundingBox())!;
  await page.mouse.move(box.x + 200, box.y + 8);
  await page.mouse.down();
  await page.mouse.move(box.x + 200, box.y - 60, { steps: 4 });
  await page.waitForTimeout(60);
  await page.mouse.up();
  const { tracks } = await savedSong(page, songId);
  const made = tracks[0].chain[1];
  expect(made).toMatchObject({ kind: 'compressor', releaseMs: 4000, limits: true });
  expect('thresholdDb' in made && made.thresholdDb).toBeGreaterThan(-40);
  // Once it is measured, it is made as loud as without it.
  await page.getByRole('button', { name: 'Match loudness' }).click();
  await expectHeard(page, (levels) => Math.abs(changeOf(plain, levels, LOWS).mean)).toBeLessThan(1.5);
  await page.keyboard.press('Shift+O');
  await expect(inChain(page, 'Compressor, off')).toBeVisible();
  await expectHeard(page, mostOf(plain, LOWS)).toBeLessThan(0.1);
});

test('a track is frozen: its render sounds alike, a change is heard at once and rendered anew, it stays so, and is thawed', async ({
  page,
}) => {
  const frozen: string[] = [];
  page.on('response', async (response) => {
    if (response.url().endsWith('/api/frozen')) frozen.push(((await response.json()) as { audioId: string }).audioId);
  });
  const asked: string[] = [];
  page.on('request', (request) => asked.push(request.url()));
  const isPlayed = () => frozen.length > 0 && asked.some((url) => url.includes(`${frozen.at(-1)}.0`));
  await play(page);
  const plain = await heardTones(page);
  await compress(page);
  const lows = (levels: Map<number, number>) => changeOf(plain, levels, LOWS).mean;
  await expectHeard(page, lows).toBeLessThan(-6);
  const compressed = lows(await heardTones(page));
  await page.getByTestId(`lane-${bassId}`).getByRole('button', { name: 'Bass', exact: true }).click();
  await page.getByRole('tab', { name: 'Track' }).click();
  await page.getByRole('button', { name: 'Live', exact: true }).click();
  const sign = page.getByTestId(`frozen-${bassId}`);
  await expect(sign).toHaveAttribute('data-state', 'frozen');
  await expect(page.getByText('its render is played')).toBeVisible();
  await expect.poll(isPlayed).toBe(true);
  await expectHeard(page, (levels) => Math.abs(lows(levels) - compressed)).toBeLessThan(0.7);
  // Its fader is behind the render.
  await type(page, 'Level', '-12');
  await expectHeard(page, (levels) => Math.abs(lows(levels) - compressed + 12)).toBeLessThan(0.7);
  await expect(sign).toHaveAttribute('data-state', 'frozen');
  await page.keyboard.press('Control+z');
  // A processor that is switched off is off at once, and in the next render.
  await inChain(page, 'Compressor').click();
  await page.keyboard.press('Shift+O');
  await expect(sign).not.toHaveAttribute('data-state', 'frozen');
  await expectHeard(page, (levels) => Math.abs(lows(levels))).toBeLessThan(0.5);
  await expect(sign).toHaveAttribute('data-state', 'frozen');
  await expect.poll(() => frozen.length).toBe(2);
  await expect.poll(isPlayed).toBe(true);
  await savedSong(page, songId);
  await page.reload();
  await expect(sign).toHaveAttribute('data-state', 'frozen');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('freeze tracks');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog').getByText('its render is played')).toBeVisible();
  await page.getByRole('button', { name: 'Thaw all' }).click();
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(sign).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
  await expect(sign).toHaveCount(0);
});

test('a bass gives way while the kick sounds: the whole of it, and one band', async ({ page }) => {
  await play(page);
  const plain = await heardTones(page);
  await add(page, 'Ducker');
  await type(page, 'Depth', '12');
  await type(page, 'Threshold', '-60');
  // Listening to itself it would duck itself; a range of another track is its key.
  await choose(page, 'Listens to', 'Kick');
  await type(page, 'Lower end of the range', 'open');
  await type(page, 'Upper end of the range', '120 Hz');
  const inRange = LOWS.filter((hz) => hz < 80);
  const isDucked = (levels: Map<number, number>) =>
    Math.max(...inRange.map((hz) => Math.abs(change(plain, levels).get(hz)! + 12)));
  await expectHeard(page, isDucked).toBeLessThan(0.5);
  await expectHeard(page, mostOf(plain, [...LOWS.filter((hz) => hz > 300), ...HIGHS])).toBeLessThan(0.5);
  // A key that is muted is a key all the same, and what it listens to cannot be taken away unsaid.
  await page.getByRole('button', { name: 'Mute Kick' }).click();
  await expectHeard(page, (levels) => change(plain, levels).get(HIGHS[0])!).toBeLessThan(-60);
  await expectHeard(page, isDucked).toBeLessThan(0.5);
  await inChain(page, 'Ducker').focus();
  await page.keyboard.press('Delete');
  await expect(inChain(page, 'Ducker')).toHaveCount(0);
  await expectHeard(page, mostOf(plain, LOWS)).toBeLessThan(0.1);

  await page.keyboard.press('n');
  await page.keyboard.type('bell 100 0 1oct');
  await page.keyboard.press('Enter');
  const band = page.getByRole('region', { name: 'Band A' });
  await band.getByRole('button', { name: 'Stays' }).click();
  await type(page, 'Amount of the way', '-9');
  await type(page, 'Threshold of the way', '-60');
  await choose(page, 'Listens to', 'Kick');
  await type(page, 'Lower end of the key', 'open');
  await type(page, 'Upper end of the key', 'open');
  const middle = LOWS.reduce((best, hz) => (Math.abs(hz - 100) < Math.abs(best - 100) ? hz : best));
  await expectHeard(page, (levels) => change(plain, levels).get(middle)!).toBeLessThan(-8);
  await expectHeard(page, mostOf(plain, LOWS.slice(-1))).toBeLessThan(0.7);
  const { tracks } = await savedSong(page, songId);
  expect(tracks[0].chain[0]).toMatchObject({ bands: [{ givesWay: { amountDb: -9, key: { stripId: kickId } } }] });
  // Its sign shows where it is now, and its far cap is stepped and dragged.
  const top = () => page.getByTestId('gain-tick').evaluate((tick) => parseFloat(tick.style.top));
  await expect.poll(top).toBeGreaterThan(20);
  const far = page.getByRole('slider', { name: /farthest$/ });
  await far.focus();
  await page.keyboard.press('ArrowUp');
  await expect(far).toHaveAttribute('aria-valuetext', '−8.5 dB');
});

test('K held, only what a processor listens to is heard', async ({ page }) => {
  await play(page);
  const plain = await heardTones(page);
  await add(page, 'Gate');
  await choose(page, 'Listens to', 'Kick');
  await type(page, 'Lower end of the key', '5 kHz');
  // The range stands in the lane of what is listened to, and is dragged there; at the side it is open.
  const lower = page.getByTestId(`lane-${kickId}`).getByRole('slider', { name: 'Lower end of what is listened to' });
  await expect(lower).toHaveAttribute('aria-valuetext', '5.00 kHz');
  await drag(page, lower, -900, 0);
  await expect(lower).toHaveAttribute('aria-valuetext', 'open');
  await page.keyboard.press('Control+z');
  await lower.focus();
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByRole('textbox', { name: 'Lower end of the key' })).not.toHaveValue('5.00 kHz');
  await page.keyboard.press('ArrowRight');
  await inChain(page, 'Gate').focus();
  await page.keyboard.down('k');
  const loudest = (tones: readonly number[]) => (levels: Map<number, number>) =>
    Math.max(...tones.map((hz) => change(plain, levels).get(hz)!));
  await expectHeard(page, loudest([...LOWS, HIGHS[0]])).toBeLessThan(-20);
  await expectHeard(
    page,
    mostOf(
      plain,
      HIGHS.filter((hz) => hz > 8000),
    ),
  ).toBeLessThan(0.5);
  await page.keyboard.up('k');
  // The chain behind it comes in again.
  await expectHeard(page, mostOf(plain, LOWS)).toBeLessThan(0.1);
  // Heard by its button it ends where its processor is left.
  await page.getByRole('button', { name: 'Hear the key' }).click();
  await expectHeard(page, loudest(LOWS)).toBeLessThan(-20);
  await page.getByTestId(`lane-${kickId}`).getByRole('button', { name: 'Kick', exact: true }).click();
  await expectHeard(page, mostOf(plain, LOWS)).toBeLessThan(0.1);
});

test('a chain is put in order by keys and by dragging, copied to another track, and every step is undone', async ({
  page,
}) => {
  await add(page, 'Clipper');
  await add(page, 'Echo');
  expect(kindsOf(await savedSong(page, songId), bassId)).toEqual(['equalizer', 'clipper', 'echo']);
  await page.keyboard.press('Alt+Shift+ArrowLeft');
  expect(kindsOf(await savedSong(page, songId), bassId)).toEqual(['equalizer', 'echo', 'clipper']);
  await page.keyboard.press('Alt+ArrowRight');
  await expect(inChain(page, 'Clipper')).toHaveAttribute('aria-pressed', 'true');
  await inChain(page, 'Clipper').dragTo(inChain(page, 'Equalizer'));
  expect(kindsOf(await savedSong(page, songId), bassId)).toEqual(['clipper', 'equalizer', 'echo']);
  await inChain(page, 'Clipper').dragTo(page.getByTestId(`lane-${kickId}`));
  expect(kindsOf(await savedSong(page, songId), kickId)).toEqual(['equalizer', 'clipper']);
  await inChain(page, 'Echo').focus();
  await page.keyboard.press('Control+c');
  await page.getByTestId(`lane-${kickId}`).getByRole('button', { name: 'Kick', exact: true }).click();
  await page.keyboard.press('Control+v');
  expect(kindsOf(await savedSong(page, songId), kickId)).toEqual(['equalizer', 'clipper', 'echo']);
  await type(page, 'Name of the processor', 'Far shore');
  await expect(inChain(page, 'Far shore')).toBeVisible();
  // Off the line it is gone.
  await inChain(page, 'Far shore').dragTo(
    page.getByTestId('processor-field').or(page.getByTestId('bench-field')).first(),
  );
  expect(kindsOf(await savedSong(page, songId), kickId)).toEqual(['equalizer', 'clipper']);
  for (let i = 0; i < 8; i++) await page.keyboard.press('Control+z');
  const song = await savedSong(page, songId);
  expect([kindsOf(song, bassId), kindsOf(song, kickId)]).toEqual([['equalizer'], ['equalizer']]);
});

test('a whole chain is saved under a name, and put on another track, which listens to its own sound there', async ({
  page,
}) => {
  await add(page, 'Ducker');
  await choose(page, 'Listens to', 'Kick');
  await page.getByRole('tab', { name: 'Reuse' }).click();
  await choose(page, 'What is saved', 'the whole chain');
  const name = `Chain ${songId}`;
  await page.getByRole('textbox', { name: 'Name for this chain' }).fill(name);
  await page.keyboard.press('Enter');
  await page.getByTestId(`lane-${kickId}`).getByRole('button', { name: 'Kick', exact: true }).click();
  await page.getByRole('button', { name: `Use ${name}` }).click();
  const { tracks } = await savedSong(page, songId);
  expect(tracks[1].chain).toMatchObject([{ kind: 'equalizer' }, { kind: 'ducker', key: { stripId: 'self' } }]);
  const ids = tracks.flatMap(({ chain }) => chain.map(({ id }) => id));
  expect(new Set(ids).size).toBe(ids.length);
  await page.keyboard.press('Control+z');
  expect(kindsOf(await savedSong(page, songId), kickId)).toEqual(['equalizer']);
});

test('a return with a reverb is made in one step; a send is typed and stepped; its middle is lowered, its lows are taken away by an equalizer behind it', async ({
  page,
}) => {
  await play(page);
  const plain = await heardTones(page);
  await page.getByRole('button', { name: /New return/ }).click();
  await expect(page.getByRole('group', { name: 'Return', exact: true })).toBeVisible();
  await expect(inChain(page, 'Reverb')).toBeVisible();
  // The room alone: the dry sound is not in it.
  const { buses, tracks } = await savedSong(page, songId);
  expect(buses[0].chain[0]).toMatchObject({ kind: 'reverb', dry: false });
  expect(tracks[0].sends).toMatchObject([{ gainDb: -12, tap: 'after-fader' }]);
  // While the return is on the bench, what goes to it stands in every lane: by key, and by its end.
  const grip = page.getByTestId(`lane-${bassId}`).getByRole('slider', { name: 'Send to Return' });
  await expect(grip).toHaveAttribute('aria-valuetext', '−12.0 dB');
  await grip.focus();
  await page.keyboard.press('ArrowRight');
  await expect(grip).toHaveAttribute('aria-valuetext', '−11.5 dB');
  await drag(page, grip, -400, 0);
  await expect(grip).toHaveAttribute('aria-valuetext', 'off');
  await drag(page, grip, 60, 0);
  await expect(grip).toHaveAttribute('aria-valuetext', /^−\d/);
  await page.getByTestId(`lane-${bassId}`).getByRole('button', { name: 'Bass', exact: true }).click();
  await type(page, 'Send to Return', '6');
  await expectHeard(page, mostOf(plain, LOWS)).toBeGreaterThan(2);
  await page.getByTestId(`lane-${buses[0].id}`).getByRole('button', { name: 'Return', exact: true }).click();
  // Both sides are heard as one here: that is the middle.
  await type(page, 'Middle', '-60');
  await expectHeard(page, mostOf(plain, LOWS)).toBeLessThan(0.3);
  await type(page, 'Middle', '0');
  await expectHeard(page, mostOf(plain, LOWS)).toBeGreaterThan(2);
  await inChain(page, 'Equalizer').click();
  await page.keyboard.press('n');
  await page.keyboard.type('high pass 2k 48');
  await page.keyboard.press('Enter');
  await expectHeard(page, mostOf(plain, LOWS)).toBeLessThan(0.3);
  await page.getByTestId(`lane-${bassId}`).getByRole('button', { name: 'Bass', exact: true }).click();
  await type(page, 'Send to Return', 'off');
  expect((await savedSong(page, songId)).tracks[0].sends).toEqual([]);
});

test('a track is turned into layers by its ranges: they sound as it did, each by itself; undone in one step', async ({
  page,
}) => {
  await play(page);
  const plain = await heardTones(page);
  await type(page, 'Layers', '120');
  await expect(page.getByRole('group', { name: 'Bass, above 120 Hz', exact: true })).toBeVisible();
  await expect(page.getByText(/loading sound/)).toHaveCount(0);
  await expectHeard(page, mostOf(plain, LOWS)).toBeLessThan(0.15);
  await page.getByRole('button', { name: 'Mute Bass, above 120 Hz' }).click();
  await expectHeard(page, (levels) => change(plain, levels).get(LOWS.at(-1)!)!).toBeLessThan(-30);
  await expectHeard(page, mostOf(plain, LOWS.slice(0, 1))).toBeLessThan(0.6);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  expect((await savedSong(page, songId)).tracks).toHaveLength(2);
});
