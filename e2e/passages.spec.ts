import type { Page } from '@playwright/test';
import { secondsAt, barStart } from '@/core/grid';
import { newPassage } from '@/core/passages';
import { firstEqualizer, type Edit, type Song } from '@/core/song';
import { expect, test } from './support/test';
import { change, heardRanges, heardTones, play, toneNear, toneSong } from './support/ear';
import { copyOfDemo, drag, openSong, savedSong } from './support/song';

/** Does edits at the server, as another window does. */
async function editSong(page: Page, songId: string, edits: Edit[]): Promise<void> {
  const data = { clientId: 'test', edits: edits.map((edit, i) => ({ id: `${Date.now()}-${i}`, edit })) };
  expect((await page.request.post(`/api/songs/${songId}/edits`, { data })).ok()).toBe(true);
}

/** The lines of the grid of the demo, which has four beats in a bar. */
const barAt = (song: Song, bar: number) => secondsAt(song.grid!, barStart(song.grid!, bar));

/** Where a time of the song lies in the window, when all of it is shown. */
async function onStrip(page: Page, song: Song, seconds: number): Promise<{ x: number; y: number }> {
  const box = (await page.getByTestId('song-strip').boundingBox())!;
  const length = Math.max(...song.tracks.map(({ lengthFrames }) => lengthFrames)) / song.rateHz;
  return { x: box.x + (box.width * seconds) / length, y: box.y + 32 };
}

test('by keys: a passage over the loop through a narrow band is heard there, the song is as it was outside, and all of it is undone', async ({
  page,
}) => {
  const { songId } = await toneSong(page.request);
  await openSong(page, songId);
  const before = await savedSong(page, songId);
  await play(page);
  const plain = await heardTones(page);
  await page.keyboard.press('Alt+p');
  await page.getByRole('button', { name: '+ Loop' }).press('Enter');
  const banner = page.getByRole('status').filter({ hasText: 'is open: what you change differs there only' });
  await expect(banner).toBeVisible();

  await page.keyboard.press('n');
  await page.keyboard.type('lp 1k');
  await page.keyboard.press('Enter');
  await page.keyboard.press('n');
  await page.keyboard.type('hp 400');
  await page.keyboard.press('Enter');
  const [low, middle, high] = [toneNear(80), toneNear(630), toneNear(6000)];
  await expect
    .poll(async () => {
      const now = change(plain, await heardTones(page));
      return now.get(low)! < -20 && now.get(high)! < -25 && now.get(middle)! > -4;
    })
    .toBe(true);
  const song = await savedSong(page, songId);
  // In the song itself the new bands are off.
  const [equalizer] = song.tracks[0].chain;
  expect(equalizer.kind === 'equalizer' && equalizer.bands.map(({ enabled }) => enabled)).toEqual([false, false]);
  expect(song.passages[0].changes.map(({ value }) => value)).toEqual([true, true]);

  await page.keyboard.press('Escape');
  await expect(banner).toHaveCount(0);
  // The playhead is still in it.
  expect(change(plain, await heardTones(page)).get(high)!).toBeLessThan(-25);
  await page
    .getByRole('button', { name: / on or off$/, exact: false })
    .filter({ hasText: 'On' })
    .first()
    .press('Enter');
  await expect.poll(async () => Math.abs(change(plain, await heardTones(page)).get(high)!) < 0.1).toBe(true);
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await savedSong(page, songId)).passages).toEqual([]);
  expect(await savedSong(page, songId)).toEqual(before);
});

test('an equalizer of linear phase follows a passage: its line is heard to its end', async ({ page }) => {
  const { songId } = await toneSong(page.request);
  await openSong(page, songId);
  await play(page);
  await page.keyboard.press('n');
  await page.keyboard.type('bell 630 0 q 1');
  await page.keyboard.press('Enter');
  const { tracks } = await savedSong(page, songId);
  const stripId = tracks[0].id;
  const equalizer = firstEqualizer(tracks[0])!;
  await editSong(page, songId, [
    { kind: 'equalizer.set', stripId, equalizerId: equalizer.id, changes: { phase: 'linear' } },
  ]);
  await expect(page.getByText(/^\d+ ms late, made up for$/)).toBeVisible();
  const plain = await heardTones(page);
  // Up to where the loop begins the gain rises; from there on it stays.
  const points = [
    { atSeconds: 0, value: 0 },
    { atSeconds: 0.6, value: 9 },
  ];
  const figure = { stripId, of: 'band', partId: equalizer.bands[0].id, field: 'gainDb' } as const;
  const passage = { ...newPassage('p', 'Louder', 0, 5), changes: [{ figure, value: 9, points }] };
  await editSong(page, songId, [{ kind: 'passage.add', passage, index: 0 }]);
  const middle = toneNear(630);
  await expect.poll(async () => Math.round(change(plain, await heardTones(page)).get(middle)!)).toBe(9);
  // What is done elsewhere in the song lets it be.
  await page.keyboard.press('Escape');
  await editSong(page, songId, [{ kind: 'strip.set', stripId, changes: { name: 'Other' } }]);
  await expect(page.getByText('Other').first()).toBeVisible();
  expect(Math.round(change(plain, await heardTones(page)).get(middle)!)).toBe(9);
});

test('the intro of the demo comes through a narrow band, as one hears it; every figure that differs there carries a mark that leads to it', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  const before = await savedSong(page, id);
  /** How far the lows and the highs are beside the middle, dB, over four seconds. */
  const colour = async () => {
    const [low, middle, high] = await heardRanges(
      page,
      [
        [40, 160],
        [500, 1500],
        [5000, 14000],
      ],
      4,
    );
    return { low: low - middle, high: high - middle };
  };
  const strip = page.getByTestId('song-strip');
  await strip.getByRole('button', { name: before.parts[0].name, exact: true }).click();
  await play(page);
  const plain = await colour();

  await page.getByRole('button', { name: 'Lead voice', exact: true }).click();
  await page.keyboard.press('Alt+p');
  await page.getByRole('button', { name: '+ Loop' }).click();
  const banner = page.getByText(/is open: what you change differs there only/);
  await expect(banner).toBeVisible();
  // Figures of a track that differ without a filter.
  await page.keyboard.press('Alt+1');
  await page.getByRole('button', { name: 'As recorded' }).click();
  await page.getByRole('button', { name: 'Heard', exact: true }).click();
  await page.getByRole('textbox', { name: 'Output gain of the equalizer' }).fill('-2');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Equalizer of Lead voice' }).click();
  // All of it through a narrow band.
  await page.getByRole('button', { name: 'Master', exact: true }).click();
  for (const phrase of ['hp 500 24', 'lp 1.6k 24']) {
    await page.keyboard.press('n');
    await page.keyboard.type(phrase);
    await page.keyboard.press('Enter');
  }
  await page.keyboard.press('Escape');
  await expect(banner).toHaveCount(0);
  const thin = await colour();
  expect(thin.low).toBeLessThan(plain.low - 20);
  expect(thin.high).toBeLessThan(plain.high - 20);

  // The next part is as it was, whichever way one comes there.
  await strip.getByRole('button', { name: before.parts[1].name, exact: true }).click();
  const next = await colour();
  expect(next.low).toBeGreaterThan(thin.low + 15);
  expect(next.high).toBeGreaterThan(thin.high + 15);

  await page.getByRole('button', { name: 'Lead voice', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Differs in one passage' })).toHaveCount(4);
  await page.getByRole('button', { name: 'Differs in one passage' }).first().click();
  await page.getByRole('menuitem').click();
  await expect(banner).toBeVisible();
  await page.keyboard.press('Escape');
  for (let i = 0; i < 8; i++) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await savedSong(page, id)).passages).toEqual([]);
  expect((await savedSong(page, id)).tracks).toEqual(before.tracks);
});

/** Turns the wheel, and waits until the page has heard it: what comes after a turn may overtake it. */
async function turnWheel(page: Page, dx: number, dy: number): Promise<void> {
  const listening = await page.evaluateHandle(() => ({
    heard: new Promise((resolve) => addEventListener('wheel', () => setTimeout(resolve), { once: true })),
  }));
  await page.mouse.wheel(dx, dy);
  await listening.evaluate(({ heard }) => heard);
}

test('by pointer: the bar before a part is thinned, sticks to the grid, is copied elsewhere, and its jump in level is evened out', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  const before = await savedSong(page, id);
  const landing = before.parts.find(({ name }) => name === 'Landing')!;
  const bar = Math.round(landing.startSeconds / (barAt(before, 2) - barAt(before, 1))) + 1;
  const [from, to] = [barAt(before, bar - 1), barAt(before, bar)];
  await page.keyboard.press('Alt+p');
  const [start, end] = [await onStrip(page, before, from), await onStrip(page, before, to)];
  await page.keyboard.down('Alt');
  await page.mouse.move(start.x + 3, start.y);
  await page.mouse.down();
  await page.mouse.move(end.x - 20, end.y, { steps: 5 });
  await page.mouse.move(end.x - 3, end.y, { steps: 3 });
  await page.waitForTimeout(60);
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await expect(page.getByText(/is open: what you change differs there only/)).toBeVisible();
  // Both ends stick to beats.
  await expect.poll(async () => (await savedSong(page, id)).passages[0]?.endSeconds).toBeCloseTo(to, 4);
  expect((await savedSong(page, id)).passages[0].startSeconds).toBeCloseTo(from, 4);

  // The double bass and the stomp leave for a bar.
  for (const name of ['Stomp', 'Double bass', 'Dulcimer', 'Lead voice'])
    await page.getByRole('button', { name: `Mute ${name}` }).click();
  await expect.poll(async () => (await savedSong(page, id)).passages[0].changes.length).toBe(4);
  expect((await savedSong(page, id)).tracks).toEqual(before.tracks);
  await page.getByRole('button', { name: 'Close', exact: true }).first().click();

  // It is measured, evened out, and measured again.
  await page.getByRole('button', { name: 'Even out' }).click();
  await expect(page.getByText(/^LUFS before .* beside them$/)).toBeVisible({ timeout: 60_000 });
  await expect
    .poll(async () => (await savedSong(page, id)).passages[0].changes.some(({ figure }) => figure.stripId === 'master'))
    .toBe(true);
  await expect
    .poll(
      async () => {
        const told = await page.getByText(/^LUFS before .* beside them$/).textContent();
        return Math.abs(Number(/([+−-]?[\d.]+) dB beside them/.exec(told!)![1].replace('−', '-')));
      },
      { timeout: 60_000 },
    )
    .toBeLessThanOrEqual(0.3);

  // Copied to the bar before another part.
  await page.getByRole('button', { name: 'Copy', exact: true }).click();
  const far = before.parts.find(({ name }) => name === 'Far bank')!;
  const place = await onStrip(page, before, far.startSeconds - (to - from));
  await page.mouse.click(place.x + 2, place.y + 8);
  await page.getByRole('button', { name: 'Paste' }).click();
  await expect.poll(async () => (await savedSong(page, id)).passages.length).toBe(2);
  const pasted = (await savedSong(page, id)).passages[1];
  expect(pasted.startSeconds).toBeCloseTo(far.startSeconds - (to - from), 2);
  expect(pasted.changes).toHaveLength(5);

  // Its span is moved by a beat with the keyboard, and one passage is taken away by it.
  const spans = page.getByRole('slider', { name: /^Passage / });
  await spans.nth(1).focus();
  await page.keyboard.press('ArrowRight');
  await expect
    .poll(async () => (await savedSong(page, id)).passages[1].startSeconds)
    .toBeCloseTo(pasted.startSeconds + (to - from) / 4, 4);
  // With the pointer it goes further, and is not opened by that.
  await drag(page, spans.nth(1), -60, 0);
  await expect.poll(async () => (await savedSong(page, id)).passages[1].startSeconds).toBeLessThan(pasted.startSeconds);
  await expect(page.getByText(/is open: what you change differs there only/)).toHaveCount(0);
  // Right after the wheel has moved it away, it is taken hold of where it is seen.
  const span = (await spans.nth(1).boundingBox())!;
  const [x, y] = [span.x + span.width / 2, span.y + span.height / 2];
  await page.mouse.move(x, y);
  await turnWheel(page, 0, -240);
  await turnWheel(page, 200, 0);
  await page.mouse.move(x - 199, y);
  await page.mouse.move(x - 200, y);
  // No hand presses sooner.
  await page.waitForTimeout(40);
  await page.mouse.down();
  await page.mouse.up();
  await expect(page.getByText(/is open: what you change differs there only/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('z');
  await spans.nth(1).focus();
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await savedSong(page, id)).passages.length).toBe(1);
  for (let i = 0; i < 10; i++) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await savedSong(page, id)).passages).toEqual([]);
  expect((await savedSong(page, id)).tracks).toEqual(before.tracks);
});

test('a filter that is opened while it plays becomes a line of few points, which are edited afterwards', async ({
  page,
}) => {
  const { songId } = await toneSong(page.request);
  await editSong(page, songId, [
    { kind: 'song.set', changes: { loop: { startSeconds: 0, endSeconds: 5, enabled: false } } },
  ]);
  await openSong(page, songId);
  await page.keyboard.press('n');
  await page.keyboard.type('lp 300');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Alt+p');
  await page.getByRole('button', { name: '+ Loop' }).click();
  await page.keyboard.press('r');
  await expect(page.getByRole('button', { name: /^Recording/ }).first()).toBeVisible();
  await play(page);
  const handle = page.getByRole('slider', { name: /^Band A, / }).first();
  const box = (await handle.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 18; i++) {
    await page.mouse.move(x + 15 * i, y);
    await page.waitForTimeout(60);
  }
  await page.mouse.up();
  await expect.poll(async () => (await savedSong(page, songId)).passages[0].changes.length).toBe(1);
  // On a slow machine the song may have come to its end by itself.
  const stop = page.getByRole('button', { name: 'Stop' });
  if (await stop.isVisible()) await stop.click();
  const [line] = (await savedSong(page, songId)).passages[0].changes;
  expect(line.figure.field).toBe('frequencyHz');
  expect(line.points.length).toBeGreaterThanOrEqual(2);
  expect(line.points.length).toBeLessThanOrEqual(40);
  expect(line.points.at(-1)!.value).toBeGreaterThan(3 * line.points[0].value);
  expect(line.points.at(-1)!.atSeconds - line.points[0].atSeconds).toBeGreaterThan(0.8);

  // A point of it is written anew.
  const point = page.getByLabel(/, point 1$/);
  await point.fill('250');
  await point.press('Enter');
  await expect.poll(async () => (await savedSong(page, songId)).passages[0].changes[0].points[0].value).toBe(250);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await savedSong(page, songId)).passages).toEqual([]);
});

test('a part is made where the playhead stands, moved by keys to the next beat, named, and taken away', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  const before = await savedSong(page, id);
  await page.keyboard.press('Alt+p');
  const place = await onStrip(page, before, barAt(before, 3) + 0.05);
  await page.mouse.click(place.x, place.y + 8);
  await page.getByRole('button', { name: '+ A part begins here' }).click();
  const made = await page.getByLabel(/^Name of part/).nth(1);
  await expect(made).toHaveValue(/^Part /);
  await made.fill('Pause');
  await made.press('Enter');
  await page.getByTestId('song-strip').getByRole('button', { name: 'Pause' }).focus();
  await page.keyboard.press('ArrowRight');
  const beat = (barAt(before, 2) - barAt(before, 1)) / 4;
  await expect
    .poll(async () => (await savedSong(page, id)).parts.find(({ name }) => name === 'Pause')?.startSeconds)
    .toBeCloseTo(barAt(before, 3) + beat, 4);
  await page.keyboard.press('ArrowRight');
  await expect
    .poll(async () => (await savedSong(page, id)).parts.find(({ name }) => name === 'Pause')?.startSeconds)
    .toBeCloseTo(barAt(before, 3) + 2 * beat, 4);
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await savedSong(page, id)).parts).toEqual(before.parts);
});

test('tempo and bars of the demo are found in its recordings, and offered with how sure it is; tapping and a MIDI file set them too', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await page.keyboard.press('Alt+p');
  await page.getByRole('button', { name: 'Forget' }).click();
  await expect.poll(async () => (await savedSong(page, id)).grid).toBeNull();
  // Where the server can't be reached that is said, and one may ask again.
  await page.route(`**/api/songs/${id}/grid`, (route) => route.abort());
  await page.getByRole('button', { name: 'Find them in the recordings' }).click();
  await expect(page.getByText(/^Bars and beats could not be looked for\. /)).toBeVisible();
  await page.unroute(`**/api/songs/${id}/grid`);
  await page.getByRole('button', { name: 'Find them in the recordings' }).click();
  await expect(page.getByText(/^96 .*in 4\/4, bar 1 at .* Sure of the tempo: \d+ %/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Take it' }).click();
  await expect.poll(async () => (await savedSong(page, id)).grid?.tempos).toEqual([{ quarter: 0, bpm: 96 }]);
  // The demo begins with its first bar.
  const { startSeconds, metres } = (await savedSong(page, id)).grid!;
  expect(metres).toEqual([{ bar: 1, beats: 4, unit: 4 }]);
  const bars = startSeconds / 2.5;
  expect(Math.abs(bars - Math.round(bars))).toBeLessThan(0.01);

  await page.getByRole('button', { name: 'Double', exact: true }).click();
  await expect.poll(async () => (await savedSong(page, id)).grid?.tempos).toEqual([{ quarter: 0, bpm: 192 }]);
  await page.getByRole('button', { name: 'Half', exact: true }).click();
  await page.getByRole('button', { name: 'Bars a beat later' }).click();
  await expect
    .poll(async () => (await savedSong(page, id)).grid?.startSeconds)
    .toBeCloseTo(startSeconds + 0.625 * (startSeconds >= 1.875 ? -3 : 1), 3);

  const tap = page.getByRole('button', { name: 'Tap', exact: true });
  await expect
    .poll(async () => {
      // Where the machine stops for a moment they begin anew.
      for (let i = 0; i < 5; i++) {
        await tap.press('Enter');
        await page.waitForTimeout(500);
      }
      const bpm = (await savedSong(page, id)).grid!.tempos[0].bpm;
      // A slow machine taps more slowly, none faster.
      return bpm > 30 && bpm < 125 && bpm !== 96;
    })
    .toBe(true);
  const text = (value: string) => [...value].map((letter) => letter.charCodeAt(0));
  const track = [0, 0xff, 0x51, 3, 0x07, 0xa1, 0x20, 0, 0xff, 0x58, 4, 3, 2, 24, 8, 0, 0xff, 0x2f, 0];
  const file = [...text('MThd'), 0, 0, 0, 6, 0, 0, 0, 1, 1, 0xe0, ...text('MTrk'), 0, 0, 0, track.length, ...track];
  await page
    .getByLabel('A Standard MIDI File')
    .setInputFiles({ name: 'song.mid', mimeType: 'audio/midi', buffer: Buffer.from(file) });
  await expect.poll(async () => (await savedSong(page, id)).grid?.tempos).toEqual([{ quarter: 0, bpm: 120 }]);
  expect((await savedSong(page, id)).grid?.metres).toEqual([{ bar: 1, beats: 3, unit: 4 }]);
  await page
    .getByLabel('A Standard MIDI File')
    .setInputFiles({ name: 'no.mid', mimeType: 'audio/midi', buffer: Buffer.from('nothing') });
  await expect(page.getByText(/“no.mid” cannot be read/)).toBeVisible();
});
