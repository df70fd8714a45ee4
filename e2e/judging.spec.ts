import { expect, test } from './support/test';
import type { Song } from '@/core/song';
import { change, edit, heardTones, play, toneNear, toneSong } from './support/ear';
import { bandsOf, copyOfDemo, openSong, pressQuickly, savedSong } from './support/song';

test('elsewhere: by key and by choice the mix is heard as it is there, at matched loudness; nothing of it is in the song', async ({
  page,
}) => {
  const { songId } = await toneSong(page.request);
  await openSong(page, songId);
  await play(page);
  const here = await heardTones(page);
  const before = await savedSong(page, songId);
  await page.keyboard.press('h');
  const strip = page.getByRole('region', { name: 'Where the mix is heard' });
  await expect(strip).toContainText('Small speakers');
  const [low, middle] = [toneNear(70), toneNear(1000)];
  await expect.poll(async () => change(here, await heardTones(page)).get(low)! < -30).toBe(true);
  const there = change(here, await heardTones(page));
  // What is left is turned up to the loudness that the whole had.
  expect(there.get(middle)!).toBeGreaterThan(0);
  await expect(page.getByTestId('unheard').first()).toBeVisible();

  await page.getByRole('button', { name: /Where the mix is heard/ }).click();
  await page.getByRole('option', { name: 'Telephone' }).click();
  await expect(strip).toContainText('Telephone');
  const high = toneNear(9000);
  await expect.poll(async () => change(here, await heardTones(page)).get(high)! < -40).toBe(true);
  await strip.getByRole('button', { name: 'Here again' }).click();
  await expect(strip).toHaveCount(0);
  await expect.poll(async () => Math.abs(change(here, await heardTones(page)).get(low)!) < 0.1).toBe(true);
  expect(await savedSong(page, songId)).toEqual(before);
});

test('room for the whole mix is gone through by keys: one move heard and taken, one left, set as one step and undone', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  const before = await savedSong(page, id);
  await page.keyboard.press('Alt+0');
  await page.getByRole('button', { name: /^Work it out/ }).click();
  const list = page.getByRole('list', { name: 'Moves, what wins most first' });
  await expect(list).toBeFocused();
  const rows = list.getByRole('listitem');
  const first = await rows.first().getAttribute('aria-label');
  // It is heard, but nothing is set.
  await page.keyboard.press('h');
  await expect(rows.first().getByRole('button', { name: /^Without it/ })).toBeVisible();
  expect(await savedSong(page, id)).toEqual(before);
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^1 taken, 0 left/)).toBeVisible();
  await expect(list).toBeFocused();
  await expect(list.getByRole('listitem', { name: first!, exact: true })).toHaveCount(0);
  const second = await rows.first().getAttribute('aria-label');
  // A key that is pressed again while the rest is worked out reaches nothing else, such as the chosen band.
  await pressQuickly(page, 'Delete', 3);
  await expect(page.getByText(/^1 taken, 1 left/)).toBeVisible();
  await expect(list.getByRole('listitem', { name: second!, exact: true })).toHaveCount(0);
  expect(await savedSong(page, id)).toEqual(before);
  await page.getByRole('button', { name: 'Set 1 move' }).click();
  await expect
    .poll(async () => {
      const song = await savedSong(page, id);
      return song.tracks.reduce((sum, track) => sum + bandsOf(song, track.id).length, 0);
    })
    .toBe(before.tracks.reduce((sum, track) => sum + bandsOf(before, track.id).length, 0) + 1);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await savedSong(page, id)).tracks).toEqual(before.tracks);
});

test('all recordings are looked through at once; what stands out leads to its track', async ({ page, request }) => {
  const id = await copyOfDemo(request);
  const { song } = (await (await request.get(`/api/songs/${id}`)).json()) as { song: Song };
  const others = song.tracks.filter((track) => !['frame-drum', 'lead-voice', 'double-bass'].includes(track.id));
  await edit(
    request,
    id,
    others.map((track) => ({ kind: 'track.remove', trackId: track.id })),
  );
  await openSong(page, id);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Look through all tracks');
  await page.keyboard.press('Enter');
  await expect(page.getByText('All 3 recordings are looked through.')).toBeVisible();
  const all = page.getByRole('list', { name: 'Suspects of all tracks, the surest first' });
  // Some of what is planted.
  for (const planted of [/^Frame drum ?Resonance, 6[789]\d Hz/, /^Lead voice ?Mains hum, 50/, /^Double bass ?Hiss/])
    await expect(all.getByRole('button', { name: planted })).toBeVisible();
  const shares = (await all.getByRole('listitem').allInnerTexts()).map((text) => Number(/(\d+) %$/.exec(text)![1]));
  expect(shares).toEqual([...shares].sort((a, b) => b - a));
  await all.getByRole('button', { name: /^Frame drum/ }).click();
  await expect(page.getByText('In the recording of Frame drum, before its equalizer:')).toBeVisible();
});

test('a finding says what it was found by, and opens the picture of it', async ({ page, request }) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  await page.getByTestId('lane-frame-drum').getByRole('button', { name: 'Frame drum', exact: true }).click();
  await page.keyboard.press('Alt+8');
  const list = page.getByRole('list', { name: 'Suspects, the surest first' });
  const ring = list.getByRole('listitem', { name: /^Resonance, 6[789]\d Hz/ });
  await expect(ring.getByText(/^Found by:/)).toBeVisible();
  await ring.getByRole('button', { name: /^Show why/ }).click();
  const picture = ring.getByRole('img', { name: /^Levels around 6[789]\d Hz/ });
  await expect(picture).toBeVisible();
  await expect(picture.locator('svg path').first()).toBeVisible();
  // And over time, where it is a dark line downwards in the middle.
  const overTime = ring.getByRole('img', { name: /^Levels around 6[789]\d Hz over time, from / });
  await overTime.scrollIntoViewIfNeeded();
  const darkness = (from: number, to: number) =>
    overTime.evaluate(
      (canvas: HTMLCanvasElement, [left, right]) => {
        const [x, width] = [Math.round(left * canvas.width), Math.round((right - left) * canvas.width)];
        const { data } = canvas.getContext('2d')!.getImageData(x, 10, width, canvas.height - 10);
        return data.reduce((sum, value, i) => (i % 4 === 3 ? sum + value : sum), 0) / (data.length / 4);
      },
      [from, to],
    );
  await expect.poll(() => darkness(0.49, 0.51)).toBeGreaterThan(150);
  expect(await darkness(0.8, 0.9)).toBeLessThan(100);
  await ring.getByRole('button', { name: /^Show why/ }).click();
  await expect(picture).toHaveCount(0);
});

test('modes of a room are one finding: taken, each of them has its bell, and all are undone in one step', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  // The demo was made in no room.
  const places = [52, 104, 157];
  const modes = places.map((frequencyHz) => ({ frequencyHz, q: 15, gainDb: 9, sureness: 0.1 }));
  const picture = {
    frequenciesHz: places,
    softDb: [3, 4, 3],
    middleDb: [6, 9, 7],
    loudDb: [9, 11, 9],
    isRelative: true,
  };
  const family = {
    kind: 'modes',
    frequencyHz: 90,
    lowHz: 51,
    highHz: 159,
    prominenceDb: 9,
    timeShare: 1,
    sureness: 0.9,
  };
  await page.route(/\/suspects/, (route) => route.fulfill({ json: [{ ...family, modes, picture }] }));
  await openSong(page, id);
  await page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true }).click();
  await page.keyboard.press('Alt+8');
  const before = bandsOf(await savedSong(page, id), 'cello');
  const found = page.getByRole('listitem', { name: 'Modes of the room, 52, 104, 157 Hz' });
  await found.getByRole('button', { name: /^Show why/ }).click();
  await expect(found.getByRole('img', { name: /^Levels around 52(\.0)? Hz: there 3, 6 and 9 dB/ })).toBeVisible();
  await found.getByRole('button', { name: /^Hear it/ }).click();
  await found.getByRole('button', { name: /^Take it/ }).click();
  await expect(page.getByTestId('earshot')).toBeHidden();
  const bells = bandsOf(await savedSong(page, id), 'cello').filter(
    ({ id: band }) => !before.some((old) => old.id === band),
  );
  expect(bells.map(({ type, frequencyHz, gainDb, q }) => [type, frequencyHz, gainDb, q])).toEqual(
    places.map((hz) => ['bell', hz, -9, 15]),
  );
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  expect(bandsOf(await savedSong(page, id), 'cello')).toEqual(before);
});

test('bleed of another track is found, seen, heard, and answered by a high-pass or by a band that gives way to it', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  const bleedIn = async (trackId: string, name: string, of: RegExp) => {
    await page.getByTestId(`lane-${trackId}`).getByRole('button', { name, exact: true }).click();
    await page.keyboard.press('Alt+8');
    const found = page.getByRole('list', { name: 'Bleed of other tracks' }).getByRole('listitem', { name: of });
    await expect(found).toBeVisible();
    await expect(found.getByRole('button', { name: /^Take it/ })).toBeDisabled();
    await found.getByRole('button', { name: /^Hear it/ }).click();
    await expect(page.getByTestId('earshot')).toBeVisible();
    return found;
  };
  // The stomp was planted in the microphone of the claps, darkened, 4 ms later.
  const stomp = await bleedIn('claps', 'Claps', /^Bleed of Stomp/);
  await expect(stomp.getByText('4.3 ms later')).toBeVisible();
  await stomp.getByRole('button', { name: /^Show why/ }).click();
  await expect(stomp.getByRole('img', { name: /^Levels by third-octaves.* go with Stomp$/ })).toBeVisible();
  await stomp.getByRole('button', { name: /^Take it/ }).click();
  await expect(page.getByTestId('earshot')).toHaveCount(0);
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'claps').length).toBe(1);
  const [end] = bandsOf(await savedSong(page, id), 'claps');
  expect(end).toMatchObject({ type: 'high-pass', note: 'bleed of Stomp' });
  expect(end.frequencyHz).toBeGreaterThan(300);
  expect(end.frequencyHz).toBeLessThan(900);
  // The room hears the cello among others.
  const cello = await bleedIn('room', 'Room', /^Bleed of Cello/);
  await cello.getByRole('button', { name: /^Take it/ }).click();
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'room').length).toBe(1);
  const [band] = bandsOf(await savedSong(page, id), 'room');
  expect(band.givesWay).toMatchObject({ amountDb: -9, key: { stripId: 'cello' } });
  await page.keyboard.press('Control+z');
  await expect.poll(async () => bandsOf(await savedSong(page, id), 'room')).toEqual([]);
});

test('where the server cannot be reached, bleed and the picture over time say so, and are there when the track is chosen again', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  await openSong(page, id);
  const choose = (lane: string, name: string) =>
    page.getByTestId(`lane-${lane}`).getByRole('button', { name, exact: true }).click();
  await page.route('**/api/measures/bleed', (route) => route.abort());
  await page.route('**/over-time?**', (route) => route.abort());
  await choose('frame-drum', 'Frame drum');
  await page.keyboard.press('Alt+8');
  const apart = page.getByText('The recording could not be held against the others. The server cannot be reached.');
  await expect(apart).toBeVisible();
  const ring = page.getByRole('listitem', { name: /^Resonance, 6[789]\d Hz/ });
  await ring.getByRole('button', { name: /^Show why/ }).click();
  await expect(ring.getByText('The picture over time could not be had. The server cannot be reached.')).toBeVisible();
  await page.unroute('**/api/measures/bleed');
  await page.unroute('**/over-time?**');
  await choose('claps', 'Claps');
  await expect(page.getByText(/^Held against the other tracks/)).toBeVisible();
  await choose('frame-drum', 'Frame drum');
  await expect(apart).toHaveCount(0);
  await ring.getByRole('button', { name: /^Show why/ }).click();
  await expect(ring.getByRole('img', { name: / over time, from / })).toBeVisible();
});
