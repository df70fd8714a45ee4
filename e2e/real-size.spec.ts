import { newId, type Song, type Track } from '@/core/song';
import { copyOfDemo, openSong, savedSong } from './support/song';
import { expect, test, type APIRequestContext, type Page } from './support/test';

/** A song of as many tracks as real ones have: the demo's, five times. */

const TRACKS = 60;
let songId: string;

/** Adds the song's own tracks to it again and again, with names and colours of their own. */
async function fill(request: APIRequestContext, id: string): Promise<void> {
  const { song } = (await (await request.get(`/api/songs/${id}`)).json()) as { song: Song };
  const copies = Array.from({ length: TRACKS - song.tracks.length }, (_, i): Track => {
    const { name, ...track } = song.tracks[i % song.tracks.length];
    return { ...track, id: newId(10), name: `${name} ${Math.floor(i / song.tracks.length) + 2}`, gainDb: -20 };
  });
  const edits = copies.map((track, i) => ({
    id: newId(),
    edit: { kind: 'track.add', track, index: song.tracks.length + i },
  }));
  const answer = await request.post(`/api/songs/${id}/edits`, { data: { clientId: 'test', edits } });
  expect(answer.ok()).toBe(true);
}

test.beforeEach(async ({ page, request }) => {
  songId = await copyOfDemo(request);
  await fill(request, songId);
  await openSong(page, songId);
});
const lanes = (page: Page) => page.getByRole('group', { name: 'Register', exact: true }).locator('> [role=group]');

test('the whole Register is in sight on one press, a lane is chosen there, and the bench comes back with it', async ({
  page,
}) => {
  await expect(lanes(page)).toHaveCount(TRACKS + 1);
  await expect(lanes(page).last()).not.toBeInViewport();
  await page.keyboard.press('w');
  await expect(lanes(page).first()).toBeInViewport({ ratio: 1 });
  await expect(lanes(page).last()).toBeInViewport({ ratio: 1 });
  await expect(page.getByTestId('bench-field')).toBeHidden();
  const { tracks } = await savedSong(page, songId);
  const far = tracks[50];
  await page.getByTestId(`lane-${far.id}`).getByRole('button', { name: far.name }).click();
  await page.keyboard.press('m');
  expect((await savedSong(page, songId)).tracks[50].muted).toBe(true);
  await page.getByTestId(`lane-${far.id}`).getByRole('button', { name: far.name }).dblclick();
  await expect(page.getByTestId('bench-field')).toBeVisible();
  await expect(page.getByTestId(`lane-${far.id}`)).toBeInViewport();
  await expect(page.getByTestId(`lane-${far.id}`).getByRole('button', { name: `Mute ${far.name}` })).toBeVisible();
  await page.getByRole('button', { name: 'Whole' }).click();
  await expect(page.getByTestId('bench-field')).toBeHidden();
});

test('lanes far out of sight have their controls when they come into sight, by wheel and by key', async ({ page }) => {
  const { tracks } = await savedSong(page, songId);
  const last = tracks[TRACKS - 1];
  const muted = page.getByRole('button', { name: `Mute ${last.name}` });
  await expect(muted).toHaveCount(0);
  await page.getByTestId(`lane-${tracks[0].id}`).hover();
  await page.mouse.wheel(0, 5000);
  await expect(muted).toBeVisible();
  await page.mouse.wheel(0, -5000);
  await expect(muted).toHaveCount(0);
  // A press in the overview goes there.
  const overview = (await page.getByTestId('register-overview').boundingBox())!;
  await page.mouse.click(overview.x + overview.width / 2, overview.y + overview.height - 20);
  await expect(muted).toBeVisible();
  await page.mouse.click(overview.x + overview.width / 2, overview.y + 20);
  await expect(muted).toHaveCount(0);
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowDown');
  await expect(page.getByTestId(`lane-${tracks[12].id}`)).toBeInViewport();
  await expect(page.getByRole('button', { name: `Mute ${tracks[12].name}` })).toBeVisible();
});

test('of tracks that a solo leaves out no sound is fetched; let in while it plays they are heard', async ({
  page,
  request,
}) => {
  const id = await copyOfDemo(request);
  const { song } = (await (await request.get(`/api/songs/${id}`)).json()) as { song: Song };
  const [first, ...others] = song.tracks;
  const edit = { kind: 'strip.set', stripId: first.id, changes: { soloed: true } };
  await request.post(`/api/songs/${id}/edits`, { data: { clientId: 'test', edits: [{ id: newId(), edit }] } });
  // The page that is open fetches sound of its own.
  await page.goto('about:blank');
  const asked = new Set<string>();
  page.on('request', (request) => {
    if (!request.url().includes('/pages/')) return;
    for (const page of request.url().split('/').at(-1)!.split(',')) asked.add(page.split('.')[0]);
  });
  await openSong(page, id);
  await page.keyboard.press('Space');
  await expect(page.getByTestId('mix-peak')).toHaveText(/peak −\d/);
  expect([...asked]).toEqual([first.audioId]);
  await page
    .getByTestId(`lane-${first.id}`)
    .getByRole('button', { name: `Solo ${first.name}` })
    .click();
  await expect.poll(() => others.filter(({ audioId }) => asked.has(audioId)).length).toBe(others.length);
  await expect(page.getByText(/loading sound/)).toBeHidden();
});

test('a window that slept goes on: it plays, has what others changed meanwhile, and saves', async ({
  page,
  request,
}) => {
  const session = await page.context().newCDPSession(page);
  await page.keyboard.press('Space');
  await expect(page.getByTestId('mix-peak')).toHaveText(/peak −\d/);
  await session.send('Page.setWebLifecycleState', { state: 'frozen' });
  const edit = { kind: 'song.set', changes: { title: 'Changed meanwhile' } };
  await request.post(`/api/songs/${songId}/edits`, { data: { clientId: 'test', edits: [{ id: newId(), edit }] } });
  await new Promise((done) => setTimeout(done, 3000));
  await session.send('Page.setWebLifecycleState', { state: 'active' });
  await expect(page.getByRole('textbox', { name: 'Title of the song' })).toHaveValue('Changed meanwhile');
  await page.keyboard.press('m');
  const { tracks } = await savedSong(page, songId);
  expect(tracks.filter(({ muted }) => muted)).toHaveLength(1);
  await expect(page.getByTestId('mix-peak')).toHaveText(/peak −\d/);
});
