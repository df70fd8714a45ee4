import AxeBuilder from '@axe-core/playwright';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from '@playwright/test';
import type { Song } from '@/core/song';
import { DATA_DIR } from './support/environment';
import { temporaryFolder } from './support/folder';
import { copyOfDemo, dropFiles, emptySong, openSong, savedSong } from './support/song';
import { openList } from './support/within';
import { expect, test } from './support/test';

/** What leaves the program, and comes back: files, packed songs, sheets, the page for the client, the journal. */
const folder = temporaryFolder('orvid-handing-on');
const at = (name: string) => path.join(folder, name);

const command = (...args: string[]) =>
  execFileSync(process.execPath, ['scripts/orvid.mjs', ...args], {
    env: { ...process.env, ORVID_DATA_DIR: DATA_DIR },
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'pipe'],
  });

async function inTitleMenu(page: Page, name: string): Promise<void> {
  await page.keyboard.press('Control+k');
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
}

/** Takes what a link leads to. */
async function taken(page: Page, name: string | RegExp, as: string): Promise<string> {
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name }).first().click();
  await (await download).saveAs(at(as));
  return at(as);
}

test('tracks of two parts, in one go: named, tagged, in the line, and the same bytes as by the command line', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await page.getByRole('button', { name: 'Render…' }).click();
  const sheet = page.getByRole('dialog');
  const tick = (name: string | RegExp) => sheet.getByRole('checkbox', { name, exact: true }).click({ force: true });
  await tick('The mix');
  await tick('Cello, track');
  await tick('Stomp, track');
  await tick(/^Rowing/);
  await tick(/^Landing/);
  const why = sheet.getByRole('textbox', { name: 'Why it is made' });
  await why.fill('for the film');
  await why.press('Enter');
  await sheet.getByRole('button', { name: 'Render 4 files' }).click();
  for (const name of ['Rowing-Stomp', 'Rowing-Cello', 'Landing-Stomp', 'Landing-Cello'])
    await expect(sheet.getByRole('link', { name: `Lantern-Ferry-copy-${name}.wav` })).toBeVisible({ timeout: 30_000 });
  const file = await taken(page, 'Lantern-Ferry-copy-Rowing-Cello.wav', 'page.wav');
  const tags = execFileSync('ffprobe', ['-v', 'error', '-show_format', file], { encoding: 'utf8' });
  expect(tags).toContain('TAG:comment=for the film');
  expect(tags).toContain('TAG:time_reference=480000');
  command(
    'render',
    songId,
    at('mix.wav'),
    '--part',
    'Rowing',
    '--stems',
    at('stems'),
    '--bits',
    '24',
    '--tail',
    '12',
    '--why',
    'for the film',
  );
  const stem = execFileSync('ls', [at('stems')], { encoding: 'utf8' })
    .split('\n')
    .find((name) => name.includes('Cello'))!;
  expect(readFileSync(file).equals(readFileSync(path.join(at('stems'), stem)))).toBe(true);
});

test('the mix as FLAC and MP3, to a loudness; all that was made in one file', async ({ page, request }) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await page.getByRole('button', { name: 'Render…' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByRole('checkbox', { name: 'Bring the mix to a loudness' }).click({ force: true });
  const lufs = sheet.getByRole('textbox', { name: 'Loudness, LUFS' });
  await lufs.fill('-18');
  await lufs.press('Enter');
  for (const [kind, ending] of [
    ['FLAC, 24 bit', 'flac'],
    ['MP3, small, to send', 'mp3'],
  ]) {
    await sheet.getByRole('button', { name: /Kind of file/ }).click();
    await page.getByRole('option', { name: kind }).click();
    await sheet.getByRole('button', { name: 'Render', exact: true }).click();
    await expect(sheet.getByRole('link', { name: `Lantern-Ferry-copy-mix.${ending}` })).toBeVisible({
      timeout: 30_000,
    });
  }
  const flac = await taken(page, 'Lantern-Ferry-copy-mix.flac', 'mix.flac');
  execFileSync('flac', ['-t', '-s', flac]);
  await expect(sheet.getByText(/−18\.0 LUFS/).first()).toBeVisible();
  const zip = await taken(page, 'Take all in one file', 'all.zip');
  expect(execFileSync('unzip', ['-Z1', zip], { encoding: 'utf8' }).trim().split('\n').sort()).toEqual([
    'Lantern-Ferry-copy-mix.flac',
    'Lantern-Ferry-copy-mix.mp3',
  ]);
});

test('a song is packed, comes back as another one, and sounds the same to the last bit', async ({ page, request }) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  const song = await savedSong(page, songId);
  await inTitleMenu(page, 'Pack the whole song');
  const name = 'Lantern-Ferry-copy.orvid.zip';
  await expect(page.getByRole('link', { name })).toBeVisible({ timeout: 30_000 });
  const file = await taken(page, name, 'song.orvid.zip');
  execFileSync('unzip', ['-t', '-q', file]);
  // Dropped on a song it is told from a recording.
  await page.keyboard.press('Escape');
  await dropFiles(page, [file]);
  await expect(page.getByText('“song.orvid.zip” is no recording. A packed song is opened on the list')).toBeVisible();
  await openList(page);
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Open a packed song…' }).click();
  await (await chooser).setFiles(file);
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible({ timeout: 30_000 });
  const otherId = page.url().split('/').at(-1)!;
  expect(otherId).not.toBe(songId);
  const other = ((await (await request.get(`/api/songs/${otherId}`)).json()) as { song: Song }).song;
  expect(other).toEqual(song);
  // On a machine that has none of it, by the command line.
  const elsewhere = { ...process.env, ORVID_DATA_DIR: at('elsewhere') };
  const run = (...args: string[]) =>
    execFileSync(process.execPath, ['scripts/orvid.mjs', ...args], { env: elsewhere, encoding: 'utf8' });
  const thirdId = run('unpack', file).trim();
  run('render', thirdId, at('third.wav'), '--bits', '16');
  command('render', songId, at('first.wav'), '--bits', '16');
  expect(
    readFileSync(at('third.wav'))
      .subarray(700)
      .equals(readFileSync(at('first.wav')).subarray(700)),
  ).toBe(true);
  expect(run('songs')).toContain('Lantern Ferry (copy)');
});

test('a packed song without a recording is opened with what is there, and stands in the list', async ({
  page,
  request,
}) => {
  // Songs of an earlier try stand in the list too.
  const title = `Lacking ${test.info().retry}`;
  const packed = `Lacking-${test.info().retry}.orvid.zip`;
  // A recording that nothing else here plays.
  const songId = await emptySong(request, title);
  execFileSync('sox', ['-n', '-r', '48000', '-b', '16', at('Fiddle.wav'), 'synth', '1', 'sine', '523', 'gain', '-9']);
  await openSong(page, songId);
  await dropFiles(page, [at('Fiddle.wav')]);
  await expect(page.getByTestId(/^lane-t/).first()).toBeVisible();
  const song = await savedSong(page, songId);
  await inTitleMenu(page, 'Pack the whole song');
  await expect(page.getByRole('link', { name: packed })).toBeVisible();
  const file = await taken(page, packed, 'lacking.orvid.zip');
  // The song plays a recording now that the zip does not hold, and nobody here has.
  const hash = 'd'.repeat(64);
  const program = `
import json, zipfile, hashlib
a = zipfile.ZipFile(${JSON.stringify(file)}); b = zipfile.ZipFile(${JSON.stringify(at('holes.zip'))}, 'w')
text = a.read('orvid-bundle.json').decode()
lost = hashlib.sha256('${hash}@48000'.encode()).hexdigest()
b.writestr('orvid-bundle.json', text.replace('${song.tracks[0].audioId}', lost))
b.close()`;
  execFileSync('/usr/bin/python3', ['-c', program]);
  await openList(page);
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Open a packed song…' }).click();
  await (await chooser).setFiles(at('holes.zip'));
  await expect(page.getByText(/Without its sound: “Fiddle\.wav”/)).toBeVisible();
  // It stands in the list at once.
  await expect(page.getByRole('link', { name: title, exact: true })).toHaveCount(2);
  await page.getByRole('button', { name: 'Open the song' }).click();
  await expect(page.getByRole('heading', { name: 'Register' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Fiddle', exact: true })).toBeVisible();
});

test('what is no packed song is refused in words', async ({ page }) => {
  writeFileSync(at('letters.orvid.zip'), 'dear all');
  await openList(page);
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Open a packed song…' }).click();
  await (await chooser).setFiles(at('letters.orvid.zip'));
  await expect(page.getByRole('alert').filter({ hasText: 'letters' })).toContainText('cannot be read as a zip file');
  await expect(page.getByRole('alert').filter({ hasText: 'letters' })).toContainText('No song was made of it.');
});

test('the recall sheet: printed with its curves and whys, taken as files, held against a draft', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await page.keyboard.press('Alt+2');
  await page.getByRole('textbox', { name: 'Name for this draft' }).fill('Before lunch');
  await page.keyboard.press('Enter');
  await page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true }).click();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('bell 450 -5');
  await page.keyboard.press('Enter');
  await savedSong(page, songId);
  await inTitleMenu(page, 'Recall sheet');
  await expect(page.getByRole('heading', { name: 'Lantern Ferry (copy)' })).toBeVisible();
  await expect(page.getByText(/on top \d+ % of the time/).first()).toBeVisible();
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id, nodes }) => `${id}: ${nodes[0].html}`)).toEqual([]);
  writeFileSync(at('recall.pdf'), await page.pdf({ format: 'A4' }));
  const text = execFileSync('pdftotext', ['-layout', at('recall.pdf'), '-'], { encoding: 'utf8' });
  for (const words of ['Lantern Ferry', 'Cello', '450 Hz, −5.0 dB', 'rumble and pops']) expect(text).toContain(words);
  expect(text).not.toContain('Back to the song');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'CSV' }).click();
  await (await download).saveAs(at('recall.csv'));
  expect(readFileSync(at('recall.csv'), 'utf8')).toContain('Cello,track,Equalizer,yes');
  expect(command('recall', songId, '--format', 'md')).toContain('## Cello');
  await page.getByRole('button', { name: /Beside what/ }).click();
  await page.getByRole('option', { name: 'Draft “Before lunch”' }).click();
  await expect(page.getByRole('table')).toContainText('one thing differs');
  await expect(page.getByRole('row', { name: /Cello/ })).toContainText('450 Hz, −5.0 dB');
});

test('the page for the client: seen first, made, opened from the disk with no server, played, switched, tried blind', async ({
  page,
  context,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await inTitleMenu(page, 'Before and after for the client');
  const sheet = page.getByRole('dialog');
  await sheet.getByRole('checkbox', { name: 'Cello' }).click({ force: true });
  await sheet.getByRole('textbox', { name: 'Notes for the client' }).fill('Listen to the <voice> in the second verse.');
  await sheet.getByRole('button', { name: /Which stretch/ }).click();
  await page.getByRole('option', { name: 'Rowing' }).click();
  await expect(sheet.getByText(/2 × before and after: about \d/)).toBeVisible();
  const opened = context.waitForEvent('page');
  await sheet.getByRole('button', { name: 'Look at it first' }).click();
  const preview = await opened;
  await expect(preview.getByText('Listen to the <voice> in the second verse.')).toBeVisible();
  await expect(preview.getByText('Its sound is put in when it is made.')).toBeVisible();
  await preview.close();
  await sheet.getByRole('button', { name: 'Make it' }).click();
  const name = 'Lantern-Ferry-copy-proof.html';
  await expect(page.getByRole('link', { name })).toBeVisible({ timeout: 40_000 });
  const file = await taken(page, name, 'proof.html');

  const client = await context.newPage();
  const requests: string[] = [];
  client.on('request', (made) => requests.push(made.url()));
  const errors: string[] = [];
  client.on('pageerror', (error) => errors.push(error.message));
  await client.goto(`file://${file}`);
  await expect(client.getByRole('heading', { name: 'The mix' })).toBeVisible();
  const found = await new AxeBuilder({ page: client }).analyze();
  expect(found.violations.map(({ id, nodes }) => `${id}: ${nodes[0].html}`)).toEqual([]);
  await client.getByRole('button', { name: 'Play The mix' }).click();
  await expect(client.getByRole('timer')).toHaveText(/^0:0[1-3] of 0:10$/);
  await client.getByRole('button', { name: 'Before', exact: true }).click();
  await expect(client.getByRole('button', { name: 'Before', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await client.keyboard.press('b');
  await expect(client.getByRole('button', { name: 'After', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await client.getByRole('button', { name: 'Play Cello' }).click();
  await client.getByRole('button', { name: 'Compare blind' }).click();
  for (let i = 0; i < 8; i++) {
    await expect(client.getByText(`Cello, ${i + 1} of 8: which do you prefer?`)).toBeVisible();
    await client.getByRole('button', { name: i % 2 ? 'I prefer the first' : 'I prefer the second' }).click();
  }
  await expect(
    client.getByText(/“after” was preferred \d of 8 times\. Guessing gives .* in \d+ % of all cases/),
  ).toBeVisible();
  await client.getByRole('button', { name: 'Close' }).click();
  await client.getByRole('button', { name: 'Stop' }).click();
  expect(requests).toEqual([`file://${file}`]);
  expect(errors).toEqual([]);

  // A browser that gives the page no sound leaves that open for ever.
  await client.addInitScript(() => {
    AudioContext.prototype.resume = () => new Promise(() => undefined);
    Object.defineProperty(AudioContext.prototype, 'state', { get: () => 'suspended' });
  });
  await client.reload();
  await client.getByRole('button', { name: 'Play The mix' }).click();
  await expect(client.getByText(/^The sound cannot be played: the browser gives none to this page/)).toBeVisible();
  await client.close();
});

test('the journal in words: a moment is seen, heard, stays as it was, gets a name, and is gone back to as one more change', async ({
  page,
  request,
}) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  await page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true }).click();
  await page.keyboard.press('m');
  await savedSong(page, songId);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('bell 450 -5');
  await page.keyboard.press('Enter');
  const before = await savedSong(page, songId);
  await page.keyboard.press('Alt+h');
  const changes = page.getByRole('list', { name: 'Changes, the latest first' });
  await expect(changes.getByText('Cello: bell added, 450 Hz, −5.0 dB')).toBeVisible();
  await changes.getByRole('button', { name: /^See Cello: muted/ }).click();
  await expect(page.getByText(/^As it was/)).toBeVisible();
  await expect(page.getByText('Nothing is shaped yet.')).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.keyboard.press('Space');
  // Nothing can be changed in the past.
  await page.getByTestId('lane-cello').getByRole('button', { name: 'Cello', exact: true }).click();
  await page.keyboard.press('m');
  await expect(page.getByText('This is a moment of the past')).toBeVisible();
  await page.keyboard.press('Control+z');
  expect(await savedSong(page, songId)).toEqual(before);
  await page.getByRole('textbox', { name: 'Name of this moment' }).fill('before the bell');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('list', { name: 'Named moments' })).toContainText('before the bell');
  await page.getByRole('button', { name: 'Go back to it' }).click();
  await expect(page.getByText(/^As it was/)).toBeHidden();
  await expect(changes.getByText('Cello: bell removed, 450 Hz, −5.0 dB')).toBeVisible();
  const after = await savedSong(page, songId);
  expect(after.tracks.find(({ id }) => id === 'cello')).toMatchObject({ muted: true });
  await page.keyboard.press('Control+z');
  expect(await savedSong(page, songId)).toEqual(before);
});

test('sections of an equalizer come in as ordinary bands, with how far they stray; parts are proposed by name', async ({
  page,
  request,
}) => {
  const songId = await emptySong(request, 'Sections');
  execFileSync('sox', ['-n', '-r', '48000', '-b', '16', at('BassDI.wav'), 'synth', '1', 'sine', '80', 'gain', '-9']);
  await openSong(page, songId);
  await dropFiles(page, [at('BassDI.wav')]);
  await expect(page.getByTestId(/^lane-t/).first()).toBeVisible();
  await page.keyboard.press('Alt+1');
  await expect(page.getByText('bass? 90 % sure, by its name')).toBeVisible();
  await page.getByRole('button', { name: 'Take it' }).click();
  await expect(page.getByRole('textbox', { name: 'Part' })).toHaveValue('bass');
  const eq = {
    format: 'orvid.eq',
    version: 1,
    bands: [
      { type: 'high-pass', frequencyHz: 45, order: 4 },
      { type: 'bell', frequencyHz: 300, gainDb: -4, q: 2 },
    ],
  };
  writeFileSync(at('x.orvid-eq.json'), JSON.stringify(eq));
  writeFileSync(at('x.csv'), command('sections', at('x.orvid-eq.json'), '--rate', '48000'));
  await page.getByRole('tab', { name: 'Reuse' }).click();
  const files = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Open…' }).click();
  await (await files).setFiles(at('x.csv'));
  await expect(page.getByText(/“x\.csv”: 2 bands, within 0\.0\d dB of its sections at 48 kHz/)).toBeVisible();
  const song = await savedSong(page, songId);
  const chain = song.tracks[0].chain[0];
  expect(chain.kind === 'equalizer' && chain.bands.map(({ type, order }) => `${type} ${order}`)).toEqual([
    'high-pass 4',
    'bell 2',
  ]);
  // What runs goes out as an impulse response, which has the level of the bell at its middle, by the Fourier sum.
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'as WAV', exact: true }).click();
  await (await download).saveAs(at('impulse.wav'));
  const bytes = readFileSync(at('impulse.wav'));
  const start = bytes.indexOf('data') + 8;
  const impulse = new Float32Array(bytes.buffer.slice(bytes.byteOffset + start, bytes.byteOffset + bytes.length));
  let [re, im] = [0, 0];
  impulse.forEach((value, n) => {
    re += value * Math.cos((2 * Math.PI * 300 * n) / 48000);
    im -= value * Math.sin((2 * Math.PI * 300 * n) / 48000);
  });
  expect(Math.abs(20 * Math.log10(Math.hypot(re, im)) + 4)).toBeLessThan(0.1);
});
