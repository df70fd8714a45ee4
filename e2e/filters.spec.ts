import { expect, test, type Page } from './support/test';
import { logSpacedHz } from '@/core/filters';
import { firstEqualizer, emptyEqualizer, type Song } from '@/core/song';
import { pathCurves } from '@/ui/places/bench/curves';
import { bandsOf, copyOfDemo, expectTimeGoesOn, openSong, pressQuickly, savedSong, undoAll } from './support/song';
import { playedByWorklet } from './support/worklet';

const VOICE = 'lead-voice';
const ROOM = 'room';
const FREQUENCIES = logSpacedHz(25, 19000, 30);

let songId: string;
test.beforeEach(async ({ page, request }) => {
  songId = await copyOfDemo(request);
  await openSong(page, songId);
  await page.getByTestId(`lane-${VOICE}`).getByText('Lead voice').click();
});

/** A choice of a list by pointer. */
async function choose(page: Page, label: string, option: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`(^|\\s)${label}$`) }).click();
  await page.getByRole('option', { name: option }).click();
}

/** What the real audio thread makes of a single sample that goes through a track alone, at the left and at unity. */
function impulseThroughWorklet(page: Page, song: Song, trackId: string): Promise<number[]> {
  const LENGTH = 65536;
  const track = song.tracks.find((track) => track.id === trackId)!;
  const samples = Array.from({ length: LENGTH }, (_, n) => (n === LENGTH / 4 ? 1 : 0));
  const alone: Song = {
    ...song,
    loop: null,
    buses: [],
    master: { ...song.master, gainDb: 0, chain: [emptyEqualizer('m')] },
    tracks: [{ ...track, gainDb: 0, pan: -1, sends: [], outputId: 'master', lengthFrames: LENGTH }],
  };
  return playedByWorklet(page, alone, 2 * LENGTH, samples);
}

function levelsDb(samples: readonly number[]): number[] {
  return Array.from(FREQUENCIES, (hz) => {
    const w = (2 * Math.PI * hz) / 48000;
    let [re, im] = [0, 0];
    samples.forEach((value, n) => {
      re += value * Math.cos(w * n);
      im += value * Math.sin(w * n);
    });
    return 10 * Math.log10(re * re + im * im + 1e-30);
  });
}

/** What is heard of a track, against the curve that the bench draws of it, where that is above −50 dB. */
async function expectHeardAsDrawn(page: Page, trackId: string): Promise<void> {
  const song = await savedSong(page, songId);
  const equalizer = firstEqualizer(song.tracks.find((track) => track.id === trackId)!)!;
  const [drawn] = pathCurves('level', equalizer, { channels: 1, path: 'stereo', rateHz: 48000 }, FREQUENCIES);
  const heard = levelsDb(await impulseThroughWorklet(page, song, trackId));
  let compared = 0;
  heard.forEach((db, i) => {
    if (drawn.values[i] < -50) return;
    compared++;
    expect(Math.abs(db - drawn.values[i]), `${FREQUENCIES[i].toFixed(0)} Hz`).toBeLessThan(0.1);
  });
  expect(compared).toBeGreaterThan(15);
}

test('family, order and ripple by pointer and by key; what is heard is what is drawn', async ({ page }) => {
  const band = page.getByRole('region', { name: 'Band A' });
  await choose(page, 'Family', /elliptic/);
  await band.getByRole('textbox', { name: 'Slope' }).fill('30');
  await page.keyboard.press('Enter');
  await band.getByRole('textbox', { name: 'Ripple' }).fill('0.5');
  await page.keyboard.press('Enter');
  await expect(band.getByText('edge at −0.50 dB')).toBeVisible();
  expect(bandsOf(await savedSong(page, songId), VOICE)[0]).toMatchObject({
    family: 'elliptic',
    order: 5,
    rippleDb: 0.5,
  });
  await expectHeardAsDrawn(page, VOICE);

  await band.getByRole('button', { name: 'Family' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('option', { name: /elliptic/ })).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await band.getByRole('textbox', { name: 'Slope' }).focus();
  await page.keyboard.press('ArrowUp');
  await band.getByRole('textbox', { name: 'Ripple' }).focus();
  await page.keyboard.press('ArrowUp');
  const [first] = bandsOf(await savedSong(page, songId), VOICE);
  expect(first).toMatchObject({ family: 'chebyshev-1', order: 6, rippleDb: 1 });
  await expectHeardAsDrawn(page, VOICE);
  await undoAll(page, 6);
  expect(bandsOf(await savedSong(page, songId), VOICE)[0]).toMatchObject({
    family: 'butterworth',
    order: 3,
    rippleDb: 1,
  });
});

test('linear phase: named where it is chosen, late by what is said, and heard as it is drawn', async ({ page }) => {
  await page.getByRole('button', { name: 'Phase of the equalizer' }).click();
  await expect(page.getByRole('option', { name: /pre-ringing/ })).toBeVisible();
  await page.getByRole('option', { name: /^Linear/ }).click();
  await expect(page.getByText(/^\d+ ms late, made up for$/)).toBeVisible();
  await expectHeardAsDrawn(page, VOICE);
  await page.getByRole('button', { name: 'Play' }).click();
  await expect(page.getByText(/^peak −/)).toBeVisible();
  await expectTimeGoesOn(page);
  await page.getByRole('button', { name: 'Stop' }).click();
  await undoAll(page, 1);
  await expect(page.getByText(/ms late/)).toHaveCount(0);
  const equalizer = firstEqualizer((await savedSong(page, songId)).tracks.find((track) => track.id === VOICE)!)!;
  expect(equalizer.phase).toBe('minimum');
});

test('mid and side: a path is chosen, new bands act on it, each path has its curve; a mono track says why not', async ({
  page,
}) => {
  await expect(page.getByText('one: the track is mono')).toBeVisible();
  await expect(page.getByText('all of a mono track')).toBeVisible();
  await page.getByTestId(`lane-${ROOM}`).scrollIntoViewIfNeeded();
  await page.getByTestId(`lane-${ROOM}`).getByText('Room').click();
  const picture = () => page.getByTestId('bench-curve').evaluate((canvas: HTMLCanvasElement) => canvas.toDataURL());
  await choose(page, 'Path of the bench', 'Side');
  await page.keyboard.press('Escape');
  await page.keyboard.press('n');
  await page.keyboard.type('high shelf 9k +4');
  await page.keyboard.press('Enter');
  const last = async () => bandsOf(await savedSong(page, songId), ROOM).at(-1);
  expect(await last()).toMatchObject({ type: 'high-shelf', channel: 'side' });
  const side = await picture();
  await choose(page, 'Acts on', /^Mid/);
  expect(await last()).toMatchObject({ channel: 'mid' });
  await expect.poll(picture).not.toBe(side);
  await undoAll(page, 1);
  expect(await last()).toMatchObject({ channel: 'side' });
});

test('the bench draws level, phase within half a turn or not, and group delay', async ({ page }) => {
  const picture = () => page.getByTestId('bench-curve').evaluate((canvas: HTMLCanvasElement) => canvas.toDataURL());
  const seen = new Set([await picture()]);
  for (const name of ['Phase', 'Phase within ±180°', 'Group delay']) {
    await page.getByRole('button', { name: 'Curve of the bench' }).click();
    await page.getByRole('option', { name, exact: true }).click();
    await expect.poll(picture).not.toBe([...seen].at(-1));
    seen.add(await picture());
  }
  expect(seen.size).toBe(4);
});

test('a twin shelf: both arms by key and by figure', async ({ page }) => {
  await page.keyboard.press('n');
  await page.keyboard.type('twin shelf 60');
  await page.keyboard.press('Enter');
  const twin = async () => bandsOf(await savedSong(page, songId), VOICE).at(-1);
  await page.getByRole('slider', { name: /Twin shelf, boost$/ }).focus();
  await page.keyboard.press('Alt+ArrowUp');
  await page.getByRole('slider', { name: /Twin shelf, cut$/ }).focus();
  await page.keyboard.press('Alt+ArrowDown');
  expect(await twin()).toMatchObject({ type: 'twin-shelf', boostDb: 3, cutDb: 3, end: 'low' });
  await page.getByRole('textbox', { name: 'Cut' }).fill('8 dB');
  await page.keyboard.press('Enter');
  await choose(page, 'End', 'Highs');
  expect(await twin()).toMatchObject({ boostDb: 3, cutDb: 8, end: 'high' });
  await expectHeardAsDrawn(page, VOICE);
});

test('both ends of a track by key, in one control of two axes', async ({ page }) => {
  const pad = page.getByRole('slider', { name: 'Both ends of Lead voice' });
  await expect(pad).toHaveAttribute('aria-valuetext', 'open from 90 Hz to 20.00 kHz');
  await pad.focus();
  await pressQuickly(page, 'Alt+ArrowDown', 2);
  const ends = async () =>
    bandsOf(await savedSong(page, songId), VOICE)
      .filter(({ type }) => type === 'high-pass' || type === 'low-pass')
      .map(({ type, frequencyHz }) => [type, Math.round(frequencyHz)]);
  const closed = await ends();
  expect(closed).toEqual([
    ['high-pass', expect.closeTo(143, -1)],
    ['low-pass', expect.closeTo(12600, -3)],
  ]);
  await page.keyboard.press('Alt+ArrowRight');
  const [[, low]] = await ends();
  expect(low).toBeGreaterThan(Number(closed[0][1]) * 1.2);
  await undoAll(page, 2);
  expect(await ends()).toEqual([['high-pass', 90]]);
});
