import { readdirSync, readFileSync, readlinkSync, statSync } from 'node:fs';
import http from 'node:http';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { ANALYSIS_VERSION } from '@/core/measure';
import { plainOrder } from '@/core/renders';
import { temporaryFolder } from './support/folder';
import { expect, test } from './support/test';
import { emptyEqualizer, newBandSettings, newTrack, type Edit, type Song } from '@/core/song';
import type { Job } from '@/server/jobs/job';
import { DATA_DIR, PORT } from './support/environment';
import { OwnServer } from './support/own-server';
import { bandsOf, copyOfDemo, openSong, savedSong } from './support/song';
import { openList } from './support/within';

const CRASH_PORT = 4872;
const STOP_PORT = 4874;
const crashFolder = temporaryFolder('orvid-crash');
const server = new OwnServer(CRASH_PORT, crashFolder);
const { url } = server;

test.afterAll(() => server.kill());

test('killing the server while edits stream in loses no edit that was acknowledged', async () => {
  await server.start();
  const post = async (to: string, data: object) => {
    const response = await fetch(`${url}${to}`, {
      method: 'POST',
      body: JSON.stringify(data),
      headers: { 'content-type': 'application/json' },
    });
    return response.json();
  };
  const { id: songId } = (await post('/api/songs', { title: 'Crash' })) as { id: string };
  const track = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 1000 }, { id: 'a', name: 'a', ink: 0 });
  const bands = [{ ...newBandSettings('bell', 500), id: 'p', letter: 'A' }];
  const addTrack: Edit = {
    kind: 'track.add',
    track: { ...track, chain: [{ ...emptyEqualizer('e'), bands }] },
    index: 0,
  };
  await post(`/api/songs/${songId}/edits`, { clientId: 'w', edits: [{ id: 'first', edit: addTrack }] });

  let acknowledged = 0;
  for (let round = 1; round <= 3; round++) {
    const killing = setTimeout(() => server.kill(), 300 + round * 130);
    for (;;) {
      const gainDb = -(acknowledged + 1) / 100;
      const edit: Edit = { kind: 'band.set', stripId: 'a', equalizerId: 'e', bandId: 'p', changes: { gainDb } };
      try {
        const { outcomes } = (await post(`/api/songs/${songId}/edits`, {
          clientId: 'w',
          edits: [{ id: `e${acknowledged}-${round}`, edit }],
        })) as { outcomes: { revision: number }[] };
        if (outcomes[0].revision > 0) acknowledged++;
      } catch {
        break;
      }
    }
    clearTimeout(killing);
    await server.start();
    const { song } = (await (await fetch(`${url}/api/songs/${songId}`)).json()) as {
      song: Parameters<typeof bandsOf>[0];
    };
    const gainDb = bandsOf(song, 'a')[0].gainDb;
    // One edit more may have been written, whose acknowledgement did not arrive.
    expect(
      [-acknowledged / 100, -(acknowledged + 1) / 100].some((wanted) => Math.abs(gainDb - wanted) < 1e-9),
      `gain ${gainDb} after ${acknowledged}`,
    ).toBe(true);
    acknowledged = Math.round(-gainDb * 100);
  }
  expect(acknowledged).toBeGreaterThan(10);
});

test('two windows on one song see each other’s work, and neither loses any', async ({ page, context, request }) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  const other = await context.newPage();
  await openSong(other, songId);
  await page.getByRole('button', { name: /^B Bell/ }).click();
  await page.getByRole('region', { name: 'Band B' }).getByRole('textbox', { name: 'Gain' }).fill('-9');
  await page.keyboard.press('Enter');
  await expect(other.getByRole('button', { name: /^B Bell 285 Hz −9.0 dB/ })).toBeVisible();
  // The other window changes another field of the same band, and one of the same; the later wins in that field alone.
  await other.getByRole('button', { name: /^B Bell/ }).click();
  await other.getByRole('region', { name: 'Band B' }).getByRole('textbox', { name: 'Frequency' }).fill('400');
  await other.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /^B Bell 400 Hz −9.0 dB/ })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(other.getByRole('button', { name: /^B Bell 400 Hz −3.5 dB/ })).toBeVisible();
  expect(await savedSong(page, songId)).toEqual(await savedSong(other, songId));
});

test('while the server cannot be reached, edits wait in the window, and are kept when it is back', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await page.route('**/edits', (route) => route.abort());
  await openSong(page, songId);
  await page.keyboard.press('o');
  await expect(page.locator('footer')).toContainText('The server cannot be reached; changes wait here');
  await page.unroute('**/edits');
  await expect(page.getByText(/^Saved, revision 1$/)).toBeVisible();
  expect(bandsOf(await savedSong(page, songId), 'lead-voice')[0].enabled).toBe(false);
});

test('once a song is open its panels, sheets and commands are there without the server', async ({ page, request }) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  // Scripts that are not needed at first come meanwhile.
  await page.waitForLoadState('networkidle');
  await page.route(/_next/, (route) => route.abort());
  for (const tab of await page.getByRole('tab').all()) {
    await tab.click();
    const panel = page.getByRole('tabpanel', { name: (await tab.textContent())! });
    await expect(panel).not.toBeEmpty();
    await expect(panel.getByText(/^Coming …$|could not be brought/)).toHaveCount(0, { timeout: 1000 });
  }
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox').fill('render');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog', { name: /Render/ })).toBeVisible();
});

test('while the disk of the server is full or fails, edits wait in the window, which says why, and are kept when it can be written', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  const foot = page.locator('footer');
  let error = { code: 'disk-failing', message: 'The disk reports an error.' };
  await page.route('**/edits', (route) => route.fulfill({ status: 507, json: { error } }));
  await openSong(page, songId);
  await page.keyboard.press('o');
  await expect(foot).toContainText('The server cannot save; changes wait here. The disk reports an error.');
  error = { code: 'disk-full', message: 'The disk is full: nothing more can be written.' };
  await expect(foot).toContainText('The disk of the server is full; changes wait here');
  await expect(page.getByRole('button', { name: 'Band A on or off' })).toHaveText('Off');
  await page.unroute('**/edits');
  await expect(page.getByText(/^Saved, revision 1$/)).toBeVisible();
  expect(bandsOf(await savedSong(page, songId), 'lead-voice')[0].enabled).toBe(false);
});

test('what never changes is kept by the browser, and had in part; asking for its head costs nothing', async ({
  request,
}) => {
  const songId = await copyOfDemo(request);
  const { song } = (await (await request.get(`/api/songs/${songId}`)).json()) as { song: Song };
  const [{ audioId }] = song.tracks;
  const kept = [`band-levels/${audioId}`, `audio/${audioId}/analysis`].map(
    (what) => `${what}?version=${ANALYSIS_VERSION}`,
  );
  for (const what of [...kept, `pages/${audioId}.0-7,${audioId}.8-9`]) {
    const first = await request.get(`/api/${what}`);
    expect(first.headers()['cache-control']).toContain('immutable');
    const again = await request.get(`/api/${what}`, {
      headers: { 'if-none-match': first.headers().etag },
    });
    expect(again.status()).toBe(304);
  }
  for (const list of ['cello', Array(33).fill(audioId).join(), `${audioId},`])
    expect((await request.get(`/api/band-levels/${list}`)).status()).toBe(400);
  expect((await request.get(`/api/band-levels/${audioId},${'0'.repeat(64)}`)).status()).toBe(404);
  // Names of whole pages, as an older page of the application asks for them, and too many pieces.
  for (const what of [`${audioId}.0`, `${audioId}.3-2`, `${audioId}.0-64`])
    expect((await request.get(`/api/pages/${what}`)).status()).toBe(400);
  expect((await request.get(`/api/audio/${audioId}/analysis?version=0`)).headers()['cache-control']).toContain(
    'no-cache',
  );
  const ordered = await request.post(`/api/songs/${songId}/renders`, { data: plainOrder });
  const {
    jobs: [job],
  } = (await ordered.json()) as { jobs: { id: string }[] };
  const state = async () => ((await (await request.get(`/api/jobs/${job.id}`)).json()) as { job: Job }).job;
  await expect.poll(async () => (await state()).state).toBe('done');
  const url = `/api/renders/${(await state()).resultId}`;
  const whole = await (await request.get(url)).body();
  const part = await request.get(url, { headers: { range: 'bytes=100-199' } });
  expect(part.status()).toBe(206);
  expect(part.headers()['content-range']).toBe(`bytes 100-199/${whole.length}`);
  expect((await part.body()).equals(whole.subarray(100, 200))).toBe(true);
  expect((await request.get(url, { headers: { range: `bytes=${whole.length}-` } })).status()).toBe(416);
  for (let i = 0; i < 30; i++) {
    const head = await request.head(url);
    expect(head.status()).toBe(200);
    expect(head.headers()['accept-ranges']).toBe('bytes');
  }
  expect(openFiles(`${(await state()).resultId}.wav`)).toEqual([]);
});

/** Processes of this machine that have a file of this name open. */
function openFiles(name: string): string[] {
  return readdirSync('/proc')
    .filter((pid) => /^\d+$/.test(pid))
    .flatMap((pid) => {
      try {
        return readdirSync(`/proc/${pid}/fd`).map((fd) => readlinkSync(`/proc/${pid}/fd/${fd}`));
      } catch {
        return [];
      }
    })
    .filter((target) => target.endsWith(name));
}

test('a server with a page open stops within two seconds, and its database is whole by itself', async () => {
  const folder = temporaryFolder('orvid-stop');
  const stopping = new OwnServer(STOP_PORT, folder);
  await stopping.start();
  const headers = { 'content-type': 'application/json' };
  const made = await fetch(`${stopping.url}/api/songs`, { method: 'POST', headers, body: '{"title":"Open"}' });
  const { id } = (await made.json()) as { id: string };
  await fetch(`${stopping.url}/api/songs/${id}/events?since=0`);
  expect(await stopping.stop()).toBeLessThan(2000);
  expect(statSync(path.join(folder, 'orvid.db-wal'), { throwIfNoEntry: false })?.size ?? 0).toBe(0);
});

test('a song that is damaged stands in the list, hides no other, and goes back to its last good state', async ({
  page,
}) => {
  const client = createClient({ url: `file:${path.join(DATA_DIR, 'orvid.db')}`, timeout: 5000 });
  const songId = await copyOfDemo(page.request);
  const data = { clientId: 'w', edits: [{ id: 'title', edit: { kind: 'song.set', changes: { title: 'Harmed' } } }] };
  await page.request.post(`/api/songs/${songId}/edits`, { data });
  await client.execute({
    sql: `UPDATE songs SET document = '{', changed_at = changed_at + 1 WHERE id = ?`,
    args: [songId],
  });
  client.close();
  await page.goto(`/songs/${songId}`);
  await expect(page.getByText('its document cannot be read')).toBeVisible();
  await openList(page);
  const line = page.getByRole('listitem').filter({ hasText: 'Harmed' });
  await expect(line).toContainText('cannot be opened');
  await line.getByRole('link').click();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download document and journal' }).click();
  const archive = JSON.parse(readFileSync(await (await download).path(), 'utf8')) as { journal: object[] };
  expect(archive.journal).toHaveLength(1);
  await page.getByRole('button', { name: 'Go back to its last good state' }).click();
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
  expect((await savedSong(page, songId)).title).toBe('Harmed');
});

/** A request as no browser would send it. */
function raw(options: http.RequestOptions, body = ''): Promise<number> {
  return new Promise((done, fail) => {
    const request = http.request({ host: '127.0.0.1', port: PORT, ...options }, (response) => {
      response.resume();
      done(response.statusCode!);
    });
    request.on('error', fail);
    request.end(body);
  });
}

test('foreign names for the host and requests of other sites are refused', async () => {
  expect(await raw({ path: '/songs', headers: { host: 'evil.example' } })).toBe(403);
  expect(await raw({ path: '/api/songs', headers: { host: 'evil.example' } })).toBe(403);
  const evil = { host: `localhost:${PORT}`, origin: 'http://evil.example', 'content-type': 'application/json' };
  expect(await raw({ path: '/api/songs', method: 'POST', headers: evil }, '{"title":"Theirs"}')).toBe(403);
  expect(await raw({ path: '/api/songs', headers: { host: `localhost:${PORT}` } })).toBe(200);
  expect(await raw({ path: '/api/pages/..%2f..%2fsecret.0-7', headers: { host: `localhost:${PORT}` } })).toBe(400);
});

test('a page is isolated, runs nothing but its own scripts, and tries nothing that its policy forbids', async ({
  context,
  request,
}) => {
  const response = await request.get('/songs/lantern-ferry');
  const policy = response.headers()['content-security-policy'];
  expect(policy).toContain("default-src 'none'");
  expect(policy).toMatch(/script-src 'self' 'nonce-[^']+' 'wasm-unsafe-eval';/);
  const page = await context.newPage();
  await page.addInitScript(() => {
    const breaches: string[] = [];
    Object.assign(window, { breaches });
    document.addEventListener('securitypolicyviolation', ({ violatedDirective, blockedURI }) =>
      breaches.push(`${violatedDirective}: ${blockedURI}`),
    );
  });
  const breaches = () => page.evaluate(() => (window as unknown as { breaches: string[] }).breaches);
  await openSong(page, 'lantern-ferry');
  await page.getByRole('button', { name: 'What to do with the song' }).click();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+k');
  await page.keyboard.press('Escape');
  await expect(page.getByText(/kHz · engine/)).toBeVisible();
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  await expect(page.locator('html')).toHaveAttribute('translate', 'no');
  await expect(page.locator('html')).toHaveCSS('overscroll-behavior', 'none');
  expect(await breaches()).toEqual([]);
  // Breaches are heard.
  await page.evaluate(() => new Image().setAttribute('src', 'https://elsewhere.example/a.png'));
  await expect.poll(breaches).toEqual(['img-src: https://elsewhere.example/a.png']);
});
