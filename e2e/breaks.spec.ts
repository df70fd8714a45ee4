import { plainOrder } from '@/core/renders';
import type { Song } from '@/core/song';
import type { Job } from '@/server/jobs/job';
import { AGAIN, bandsOf, copyOfDemo, expectTimeGoesOn, openSong, savedSong } from './support/song';
import { newDataFolder } from './support/environment';
import { OwnServer } from './support/own-server';
import { expect, test, type Page } from './support/test';

/** The server that is gone, the edit that it does not want, the sound that the browser does not give. */

const VOICE = 'lead-voice';
let songId: string;
test.beforeEach(async ({ page, request }) => {
  songId = await copyOfDemo(request);
  await openSong(page, songId);
});
const gone = (page: Page) => page.getByText('The server cannot be reached; changes wait here').first();
// The server may just be closing the connection that an earlier request has left open.
const titleOf = async (page: Page) =>
  ((await (await page.request.get(`/api/songs/${songId}`, { maxRetries: 2 })).json()) as { song: { title: string } })
    .song.title;

test('an edit that is refused is taken back and said, and the next one is saved', async ({ page }) => {
  let isRefused = true;
  await page.route('**/edits', async (route) => {
    if (!isRefused) return route.continue();
    await route.fulfill({
      status: 422,
      json: {
        error: { code: 'invalid-input', message: 'The server does not want this.', kept: 'Nothing was changed.' },
      },
    });
  });
  await page.keyboard.press('o');
  await expect(page.getByText('A change could not be kept. The server does not want this.')).toBeVisible();
  isRefused = false;
  await page.keyboard.press('m');
  const song = await savedSong(page, songId);
  expect(bandsOf(song, VOICE)[0].enabled).toBe(true);
  expect(song.tracks.find(({ id }) => id === VOICE)!.muted).toBe(true);
});

test('sound that comes too late is said in the foot, and time goes on without it', async ({ page }) => {
  let isHeld = true;
  await page.route('**/pages/*', async (route) => {
    while (isHeld) await new Promise((done) => setTimeout(done, 100));
    await route.continue();
  });
  await openSong(page, songId);
  await page.keyboard.press('Space');
  await expect(page.getByText(/sound came too late once: the server does not answer/)).toBeVisible();
  await expectTimeGoesOn(page);
  isHeld = false;
  // Each page that passes through the test takes its time.
  await page.unrouteAll({ behavior: 'wait' });
  await expect(page.getByText(/loading sound/)).toBeHidden();
  await expect(page.getByText(/sound came too late (once|\d+ times)/)).toBeVisible();
});

test('an empty title is not sent: the field says what is wrong, and everything else is saved', async ({ page }) => {
  const title = page.getByRole('textbox', { name: 'Title of the song' });
  await title.fill('');
  await title.press('Enter');
  await expect(page.getByText('a song needs a title')).toBeVisible();
  await title.press('Escape');
  await expect(title).toHaveValue('Lantern Ferry (copy)');
  await page.getByRole('heading', { name: 'Register' }).click();
  await page.keyboard.press('m');
  expect((await savedSong(page, songId)).tracks.find(({ id }) => id === VOICE)!.muted).toBe(true);
});

test('edits that wait when the song is left by a link are saved when the server is back', async ({ page }) => {
  let isGone = true;
  await page.route('**/edits', (route) => (isGone ? route.abort() : route.continue()));
  const title = page.getByRole('textbox', { name: 'Title of the song' });
  await title.fill('Left by a link');
  await title.press('Enter');
  await expect(gone(page)).toBeVisible();
  await page.getByRole('link', { name: 'Orvid' }).click();
  await expect(page.getByRole('button', { name: 'New song…' })).toBeVisible();
  expect(await titleOf(page)).toBe('Lantern Ferry (copy)');
  isGone = false;
  // The waits between tries have grown meanwhile.
  await expect.poll(() => titleOf(page)).toBe('Left by a link');
});

test('edits that wait when the window is closed are there at the next visit, and are saved', async ({
  page,
  context,
}) => {
  const muted = (window: Page) =>
    expect(window.getByRole('button', { name: 'Mute Lead voice' })).toHaveAttribute('aria-pressed', 'true');
  await page.route('**/edits', (route) => route.abort());
  await page.keyboard.press('m');
  await muted(page);
  await expect(gone(page)).toBeVisible();
  await page.keyboard.press('Control+s');
  await expect(page.getByText('What was done here is kept, and saved when that is over.')).toBeVisible();
  await page.close();
  const again = await context.newPage();
  await openSong(again, songId);
  await muted(again);
  expect((await savedSong(again, songId)).tracks.find(({ id }) => id === VOICE)!.muted).toBe(true);
  expect(await again.evaluate(() => Object.keys(localStorage).filter((key) => key.includes('outbox')))).toEqual([]);
});

test('where the browser keeps nothing the page works as ever: choices hold for the window, edits are saved', async ({
  context,
}) => {
  const page = await context.newPage();
  await page.addInitScript(() => {
    const blocked = () => {
      throw new DOMException('Access is denied.', 'SecurityError');
    };
    Object.defineProperty(window, 'localStorage', { get: blocked });
  });
  await openSong(page, songId);
  await page.keyboard.press('m');
  expect((await savedSong(page, songId)).tracks.find(({ id }) => id === VOICE)!.muted).toBe(true);
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Commands' }).fill('night');
  await page.keyboard.press('Enter');
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'night');
  await page.getByRole('link', { name: 'Orvid' }).click();
  await expect(page.getByRole('button', { name: 'New song…' })).toBeVisible();
});

test('a script of the page that does not come is said, and the song is worked on without it', async ({ page }) => {
  await page.route('**/audio/mix.js', (route) => route.abort());
  await page.reload();
  await expect(page.getByText(/A part of this page could not be had from the server/)).toBeVisible();
  await page.keyboard.press('m');
  expect((await savedSong(page, songId)).tracks.find(({ id }) => id === VOICE)!.muted).toBe(true);
});

test('a browser without shared memory is told what it lacks, and loses nothing', async ({ context }) => {
  const page = await context.newPage();
  await page.addInitScript(() => Reflect.deleteProperty(window, 'SharedArrayBuffer'));
  await page.goto(`/songs/${songId}`);
  await expect(page.getByRole('heading', { name: 'This browser cannot open songs' })).toBeVisible();
  await expect(page.getByText('SharedArrayBuffer')).toBeVisible();
  await page.getByRole('link', { name: 'To the songs' }).click();
  await expect(page.getByRole('button', { name: 'New song…' })).toBeVisible();
});

test('a song that another window deletes is said to be deleted; what is done meanwhile is saved when it is put back', async ({
  page,
}) => {
  await page.request.delete(`/api/songs/${songId}`, AGAIN);
  await page.keyboard.press('m');
  await expect(page.getByText('This song was deleted; changes wait here until it is put back').first()).toBeVisible();
  await expect(gone(page)).toBeHidden();
  await page.request.post(`/api/songs/${songId}/restore`, AGAIN);
  await page.reload();
  const isMuted = async () => (await savedSong(page, songId)).tracks.find(({ id }) => id === VOICE)!.muted;
  await expect.poll(isMuted).toBe(true);
});

test('sound that the browser does not give is said with what to do, and the page goes on', async ({
  page,
  context,
}) => {
  await page.close();
  const deaf = await context.newPage();
  await deaf.addInitScript(() => {
    AudioContext.prototype.resume = () => new Promise(() => undefined);
    Object.defineProperty(AudioContext.prototype, 'state', { get: () => 'suspended' });
  });
  await openSong(deaf, songId);
  await deaf.keyboard.press(' ');
  await expect(deaf.getByText(/does not let this page sound yet/)).toBeVisible();
  await expect(deaf.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await deaf.keyboard.press('m');
  expect((await savedSong(deaf, songId)).tracks.find(({ id }) => id === VOICE)!.muted).toBe(true);

  const silent = await context.newPage();
  await silent.addInitScript(() => {
    window.AudioContext = class {
      constructor() {
        throw new Error('no device');
      }
    } as unknown as typeof AudioContext;
  });
  await openSong(silent, songId);
  await expect(silent.getByText(/There is no sound output for this page \(no device\)/)).toBeVisible();
  await silent.keyboard.press(' ');
  await expect(silent.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
});

test('scripts of what plays and measures a song that did not come are said, and there when they can be had: no page is loaded anew', async ({
  page,
  context,
}) => {
  await page.close();
  const late = await context.newPage();
  let isGone = true;
  await late.route(/\/audio\/[\w-]+\.js$/, (route) => (isGone ? route.abort() : route.continue()));
  // What a worklet asks for does not pass where tests hold requests back.
  await late.addInitScript(() => {
    const { addModule } = AudioWorklet.prototype;
    const failed = new Set<string | URL>();
    sessionStorage.setItem('gone', 'yes');
    AudioWorklet.prototype.addModule = function (url) {
      if (sessionStorage.getItem('gone')) failed.add(url);
      return addModule.call(this, failed.has(url) ? '/audio/absent.js' : url);
    };
  });
  await openSong(late, songId);
  const said = late.getByText(/What plays this song could not be had from the server/);
  await expect(said).toBeVisible();
  await expect(late.getByText(/^A part of this page could not be had from the server/)).toBeVisible();
  for (let notices = 2; notices > 0; notices--) {
    await expect(late.getByRole('button', { name: 'Dismiss' })).toHaveCount(notices);
    await late.getByRole('button', { name: 'Dismiss' }).first().click();
  }
  await late.keyboard.press(' ');
  await expect(said).toBeVisible();
  await expect(late.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await late.evaluate(() => sessionStorage.removeItem('gone'));
  isGone = false;
  await late.keyboard.press(' ');
  await expect(late.getByTestId('position')).not.toHaveText('0:00.0');
  await expect(late.getByTestId('mix-peak')).toHaveText(/peak −\d/);
  await late.close();
});

test('pages of sound, and the waveform that is looked at, are asked for again when the server is back', async ({
  page,
  request,
}) => {
  let isGone = true;
  for (const what of ['**/pages/*', '**/events?*', '**/api/songs/*', '**/waveforms?*'])
    await page.route(what, (route) => (isGone ? route.abort() : route.continue()));
  await openSong(page, await copyOfDemo(request));
  await expect(gone(page)).toBeVisible();
  await expect(page.locator('footer')).toContainText('loading sound 0 %');
  const missed = page.waitForRequest('**/waveforms?*');
  await page.getByTestId('song-strip').hover();
  await page.mouse.wheel(0, -480);
  await missed;
  const waveform = page.waitForResponse('**/waveforms?*');
  isGone = false;
  await expect(page.getByText(/^Saved/)).toBeVisible();
  await expect(page.locator('footer')).not.toContainText('loading sound');
  expect((await waveform).ok()).toBe(true);
  await page.keyboard.press(' ');
  await expect(page.getByTestId('mix-peak')).toHaveText(/peak −\d/);
});

test.describe('a server that dies', () => {
  // One server for both.
  test.describe.configure({ mode: 'serial' });
  const server = new OwnServer(4873, newDataFolder());
  test.beforeAll(() => server.start());
  test.afterAll(() => server.kill());

  test('is missed and said though nothing was edited, and so is its return; what it was rendering goes on', async ({
    page,
  }) => {
    await page.goto(`${server.url}/songs/lantern-ferry`);
    // Scripts of panels come meanwhile.
    await page.waitForLoadState('networkidle');
    await page.getByRole('button', { name: 'Render…' }).click();
    await page.getByRole('button', { name: 'Render', exact: true }).click();
    await expect(page.getByRole('progressbar', { name: 'Lantern-Ferry-mix.wav' })).toBeVisible();
    server.kill();
    await expect(gone(page)).toBeVisible();
    await page.keyboard.press('Escape');
    // What a panel could not ask for is not said to be nothing, and comes when the server is back.
    await page.getByRole('tab', { name: 'Reuse', exact: true }).click();
    await expect(page.getByRole('heading', { name: 'Saved', exact: true })).toBeVisible();
    await expect(page.getByText('The server cannot be reached.').last()).toBeVisible();
    await expect(page.getByText('None yet. What is saved here')).toBeHidden();
    await page.keyboard.press('Alt+h');
    await expect(page.getByRole('region', { name: 'History' })).toBeVisible();
    const journal = page.getByText('Nothing was changed yet.');
    // There is no other page to go to, by link or by command: the song stays.
    const stays = page.getByText('there is no other page to show. The song stays open');
    await page.getByRole('link', { name: 'Orvid' }).click();
    await expect(stays).toBeVisible();
    await page.getByRole('button', { name: 'Dismiss' }).first().click();
    await expect(stays).toBeHidden();
    await page.keyboard.press('Control+k');
    await page.getByRole('combobox', { name: 'Commands' }).fill('score');
    await page.keyboard.press('Enter');
    await expect(stays).toBeVisible();
    await expect(journal).toBeHidden();
    await page.getByRole('button', { name: 'Render…' }).click();
    await server.start();
    await expect(page.getByRole('link', { name: 'Lantern-Ferry-mix.wav' })).toBeVisible();
    await expect(journal).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByText(/^Saved, revision \d+$/)).toBeVisible();
    await page.getByRole('link', { name: 'Orvid' }).click();
    await expect(page.getByRole('button', { name: 'New song…' })).toBeVisible();
  });

  test('in the midst of ten renders: the line goes on after the start, every file is whole, none is doubled', async ({
    request,
  }) => {
    const at = (to: string) => `${server.url}/api${to}`;
    const { song } = (await (await request.get(at('/songs/lantern-ferry'))).json()) as { song: Song };
    const settings = { ...plainOrder.settings, bits: '16' as const };
    const order = { ...plainOrder, mix: false, strips: song.tracks.slice(0, 10).map(({ id }) => id), settings };
    const ordered = await request.post(at('/songs/lantern-ferry/renders'), { data: order });
    const { jobs } = (await ordered.json()) as { jobs: { id: string; name: string }[] };
    expect(jobs).toHaveLength(10);
    const states = async () => {
      const all = ((await (await request.get(at('/songs/lantern-ferry/jobs'))).json()) as { jobs: Job[] }).jobs;
      return jobs.map(({ id }) => all.find((job) => job.id === id)!.state);
    };
    const done = async () => (await states()).filter((state) => state === 'done').length;
    await expect.poll(done, { intervals: [50] }).toBeGreaterThan(2);
    server.kill();
    await server.start();
    await expect.poll(done).toBe(10);
    const made = (await (await request.get(at('/songs/lantern-ferry/renders'))).json()) as {
      files: { id: string; fileName: string; about: { bytes: number } }[];
    };
    const files = made.files.filter(({ id }) => jobs.some((job) => job.id === id));
    expect(files.map(({ fileName }) => fileName).sort()).toEqual(jobs.map(({ name }) => name).sort());
    for (const { id, about } of files) {
      const bytes = await (await request.get(at(`/renders/${id}`))).body();
      expect(bytes.length).toBe(about.bytes);
      expect(bytes.readUInt32LE(4) + 8).toBe(bytes.length);
    }
  });
});
