import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { temporaryFolder } from './support/folder';
import { expect, test, type Page } from './support/test';
import { dropFiles, emptySong, openSong, savedSong } from './support/song';

const folder = temporaryFolder('orvid-files');
const at = (name: string) => path.join(folder, name);

/** A file that a program has made; it may run more than once. */
const made = (name: string, source: string, ...args: string[]) =>
  execFileSync('ffmpeg', ['-y', '-v', 'error', '-f', 'lavfi', '-i', source, ...args, at(name)]);

test.beforeAll(() => {
  made('Viola.flac', 'sine=220:r=48000:d=3');
  made('Old viola.flac', 'sine=220:r=44100:d=3');
  made('Old cello.wav', 'sine=110:r=44100:d=2');
  made('Long take.wav', 'anoisesrc=r=48000:d=300:seed=1', '-ac', '2');
  writeFileSync(
    at('Broken.flac'),
    Buffer.concat([readFileSync(at('Viola.flac')).subarray(0, 4), Buffer.alloc(4000, 7)]),
  );
});

const drop = (page: Page, names: string[]) => dropFiles(page, names.map(at));

test('a drop of a FLAC and a broken file: one comes in, the other is named with its fault', async ({
  page,
  request,
}) => {
  const songId = await emptySong(request, 'Import');
  await openSong(page, songId);
  await expect(page.getByText('Drop the song’s recordings here')).toBeVisible();
  await drop(page, ['Viola.flac', 'Broken.flac']);
  await expect(page.getByRole('group', { name: 'Viola', exact: true })).toBeVisible();
  await expect(page.getByRole('alert', { name: 'Broken.flac' })).toContainText('“Broken.flac” could not be read');
  await expect(page.getByRole('alert', { name: 'Broken.flac' })).toContainText(
    'The song and the other files are as they were',
  );
  await page.getByRole('button', { name: 'Dismiss' }).click();
  const { tracks } = await savedSong(page, songId);
  expect(tracks).toMatchObject([{ name: 'Viola', channels: 1, lengthFrames: 3 * 48000 }]);
  await page.getByTestId(`lane-${tracks[0].id}`).getByRole('button', { name: 'Viola', exact: true }).click();
  await page.keyboard.press(' ');
  await expect(page.getByTestId('mix-peak')).toHaveText(/peak −\d/);
});

test('a file dropped where nothing takes it is not opened in place of the page', async ({ page }) => {
  await page.goto('/how-clearance-is-measured');
  await page.evaluate(() =>
    addEventListener('dragover', (event) => {
      document.title = event.defaultPrevented ? `kept, ${event.dataTransfer!.dropEffect}` : 'lost';
    }),
  );
  const session = await page.context().newCDPSession(page);
  const data = { items: [], files: [at('Viola.flac')], dragOperationsMask: 1 };
  for (const type of ['dragEnter', 'dragOver'] as const)
    await session.send('Input.dispatchDragEvent', { type, x: 300, y: 300, data });
  await expect(page).toHaveTitle('kept, none');
});

test('the first recordings of another rate are asked about: the song gets their rate, or they are converted', async ({
  page,
  request,
}) => {
  const sheet = page.getByRole('dialog', { name: 'Recordings of 44.1 kHz' });
  const songId = await emptySong(request, 'Rates');
  await openSong(page, songId);
  await drop(page, ['Old viola.flac', 'Old cello.wav']);
  await expect(sheet).toContainText('These 2 recordings have 44.1 kHz, the song 48 kHz.');
  await page.keyboard.press('Escape');
  await expect(sheet).toBeHidden();
  expect((await savedSong(page, songId)).tracks).toEqual([]);

  await drop(page, ['Old viola.flac', 'Old cello.wav']);
  const make = sheet.getByRole('button', { name: 'Make the song 44.1 kHz' });
  await expect(make).toBeFocused();
  // Where it cannot be made nothing has happened, and the question stays.
  await page.route('**/api/songs', (route) => route.abort());
  await page.keyboard.press('Enter');
  await expect(page.getByText('The server cannot be reached.')).toBeVisible();
  await expect(make).toBeEnabled();
  await page.unroute('**/api/songs');
  await make.press('Enter');
  await expect(page.getByText('2 tracks')).toBeVisible();
  const newId = new URL(page.url()).pathname.split('/').pop()!;
  expect(newId).not.toBe(songId);
  const { title, rateHz, tracks } = await savedSong(page, newId);
  expect({ title, rateHz }).toEqual({ title: 'Rates', rateHz: 44100 });
  expect(tracks.map(({ name, lengthFrames }) => [name, lengthFrames])).toEqual([
    ['Old cello', 2 * 44100],
    ['Old viola', 3 * 44100],
  ]);
  // What was empty is gone, and what is at the song's own rate, or comes later, is not asked about.
  await expect.poll(async () => (await request.get(`/api/songs/${songId}`)).status()).toBe(404);
  await drop(page, ['Viola.flac']);
  await expect(page.getByText('3 tracks')).toBeVisible();

  const convertedId = await emptySong(request, 'Converted');
  await page.getByRole('link', { name: 'Orvid' }).click();
  await expect(page.getByRole('button', { name: 'New song…' })).toBeVisible();
  await openSong(page, convertedId);
  await drop(page, ['Old viola.flac']);
  await sheet.getByRole('button', { name: 'Convert to 48 kHz' }).click();
  await expect(page.getByText('1 track', { exact: true })).toBeVisible();
  expect((await savedSong(page, convertedId)).tracks).toMatchObject([{ name: 'Old viola', lengthFrames: 3 * 48000 }]);
});

test('a folder is dropped: the recordings in it become tracks, however deep they lie; one without any is named', async ({
  page,
  request,
}) => {
  mkdirSync(at('Stems/Strings'), { recursive: true });
  mkdirSync(at('Pictures'), { recursive: true });
  copyFileSync(at('Viola.flac'), at('Stems/Strings/Deep viola.flac'));
  made('Stems/Bell.wav', 'sine=880:r=48000:d=1');
  for (const name of ['Stems/notes.txt', 'Stems/.Bell.wav', 'Pictures/cover.png']) writeFileSync(at(name), 'none');
  const songId = await emptySong(request, 'Folders');
  await openSong(page, songId);
  await drop(page, ['Stems', 'Pictures']);
  await expect(page.getByText('2 tracks')).toBeVisible();
  await expect(page.getByText('No recording was found in the folder “Pictures”')).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'could not be read' })).toHaveCount(0);
  expect((await savedSong(page, songId)).tracks.map(({ name }) => name)).toEqual(['Bell', 'Deep viola']);
  // They came in together, and go together.
  await page.keyboard.press('Control+z');
  await expect(page.getByText('0 tracks')).toBeVisible();
});

test('the same file twice is asked about: left out at first, added again on request', async ({ page, request }) => {
  const songId = await emptySong(request, 'Twice');
  await openSong(page, songId);
  await drop(page, ['Viola.flac']);
  await expect(page.getByRole('group', { name: 'Viola', exact: true })).toBeVisible();
  const asked = page.getByRole('complementary').getByRole('group', { name: 'Viola.flac' });
  await drop(page, ['Viola.flac']);
  await asked.getByRole('button', { name: 'Leave it out' }).click();
  await expect(asked).toBeHidden();
  expect((await savedSong(page, songId)).tracks).toHaveLength(1);
  await drop(page, ['Viola.flac']);
  await asked.getByRole('button', { name: 'Add it again' }).click();
  await expect(page.getByText('2 tracks')).toBeVisible();
  await expect(asked).toBeHidden();
  const { tracks } = await savedSong(page, songId);
  expect(tracks[1].audioId).toBe(tracks[0].audioId);
});

test('files that did not come in through no fault of theirs are named with what it was, and come in when they are tried again', async ({
  page,
  request,
}) => {
  const songId = await emptySong(request, 'No room');
  await openSong(page, songId);
  const names = ['Viola.flac', 'Long take.wav'];
  const told = async (of: (name: string) => string) => {
    for (const name of names) await expect(page.getByRole('alert', { name })).toContainText(of(name));
  };
  const error = { code: 'disk-full', message: 'The disk is full: nothing more can be written.' };
  // Refused at once, and while it is read.
  await page.route('**/imports?*', (route) => route.fulfill({ status: 507, json: { error } }));
  await drop(page, names);
  await told((name) => `“${name}”: The disk is full`);
  await page.unroute('**/imports?*');
  await page.route('**/imports?*', (route) => {
    const about = new URL(route.request().url()).searchParams;
    const [name, uploadId] = [about.get('name'), about.get('upload')];
    const job = { id: `job-${name}`, kind: 'import', name, uploadId, state: 'failed', step: '', progress: 0, error };
    return route.fulfill({ json: { job } });
  });
  for (const name of names) await page.getByRole('button', { name: `Try ${name} again` }).click();
  await told((name) => `“${name}”: The disk is full`);
  await page.unroute('**/imports?*');
  await page.route('**/imports?*', (route) => route.abort());
  await page.getByRole('button', { name: 'Try all again' }).click();
  await told((name) => `“${name}” could not be sent: the server cannot be reached.`);
  await page.unroute('**/imports?*');
  await page.getByRole('button', { name: 'Try all again' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert', { name: 'Viola.flac' })).toBeHidden();
  await expect(page.getByText('2 tracks')).toBeVisible();
  expect((await savedSong(page, songId)).tracks.map(({ name }) => name)).toEqual(['Long take', 'Viola']);
});

test('an import can be cancelled while it goes on, and leaves nothing', async ({ page, request }) => {
  const songId = await emptySong(request, 'Cancel');
  await openSong(page, songId);
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Choose recordings…' }).click();
  await (await chooser).setFiles(at('Long take.wav'));
  await page.getByRole('button', { name: 'Cancel Long take.wav' }).click();
  await expect(page.getByText('Long take.wav')).toHaveCount(0);
  expect((await savedSong(page, songId)).tracks).toEqual([]);
});

test('who would leave while files are on their way is asked; afterwards nobody is', async ({ context, request }) => {
  const page = await context.newPage();
  await openSong(page, await emptySong(request, 'Leave'));
  let arrive = () => {};
  const arrives = new Promise<void>((done) => (arrive = done));
  await page.route(/\/imports\?/, async (route) => {
    await arrives;
    await route.continue();
  });
  const chooser = page.waitForEvent('filechooser');
  await page.keyboard.press('Control+o');
  await (await chooser).setFiles(at('Viola.flac'));
  await expect(page.getByText('Viola.flac')).toBeVisible();
  const asked = page.waitForEvent('dialog');
  await page.close({ runBeforeUnload: true });
  const question = await asked;
  expect(question.type()).toBe('beforeunload');
  await question.dismiss();
  arrive();
  await expect(page.getByRole('group', { name: 'Viola', exact: true })).toBeVisible();
  const left = page.waitForEvent('close');
  await page.close({ runBeforeUnload: true });
  await left;
});

test('a track that is removed comes back by undo', async ({ page, request }) => {
  const songId = await emptySong(request, 'Remove');
  await openSong(page, songId);
  await drop(page, ['Viola.flac']);
  await page.getByRole('button', { name: 'Viola', exact: true }).click();
  await page.getByRole('button', { name: 'Remove the track' }).click();
  await expect(page.getByRole('group', { name: 'Viola', exact: true })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('group', { name: 'Viola', exact: true })).toBeVisible();
});
