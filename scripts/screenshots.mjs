/** `npm run screenshots`: the pictures of docs/screenshots/, made of the demo song in headless Chromium. */
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { ensureBuild, ensureDependencies, ensureTestPrograms, root } from './setup.mjs';

ensureDependencies();
ensureTestPrograms();
await ensureBuild();
const { chromium } = await import('@playwright/test');

const PORT = 4874;
const url = (to) => `http://localhost:${PORT}${to}`;
const folder = path.join(root, 'docs', 'screenshots');
mkdirSync(folder, { recursive: true });
const dataDir = mkdtempSync(path.join(os.tmpdir(), 'orvid-pictures-'));
if (
  await fetch(url('/api/songs')).then(
    () => true,
    () => false,
  )
) {
  console.error(`Port ${PORT} is taken. End the program that uses it, then take the pictures again.`);
  process.exit(1);
}
const server = spawn(process.execPath, ['scripts/demo.mjs'], {
  cwd: root,
  stdio: 'ignore',
  env: { ...process.env, ORVID_PORT: String(PORT), ORVID_DATA_DIR: dataDir },
});
const isUp = () =>
  fetch(url('/api/songs')).then(
    (response) => response.ok,
    () => false,
  );
while (!(await isUp())) await new Promise((done) => setTimeout(done, 300));

const browser = await chromium.launch({
  executablePath: process.env.ORVID_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--autoplay-policy=no-user-gesture-required',
  ],
});
const open = async (to, colorScheme = 'light') => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme });
  await page.goto(url(to));
  return page;
};
const openSong = async (id, colorScheme) => {
  const page = await open(`/songs/${id}`, colorScheme);
  await page.getByText(/kHz · engine/).waitFor({ timeout: 60_000 });
  return page;
};
const take = async (page, name) => {
  await page.screenshot({ path: path.join(folder, `${name}.png`) });
  await page.close();
};

/** A minute and a half of noise at 44.1 kHz: long enough to be seen coming in. */
function recording() {
  const frames = 90 * 44100;
  const bytes = Buffer.alloc(44 + frames * 4);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(36 + frames * 4, 4);
  bytes.write('WAVEfmt ', 8);
  [16, 0x20001, 44100, 176400, 0x100004].forEach((value, i) => bytes.writeUInt32LE(value, 16 + 4 * i));
  bytes.write('data', 36);
  bytes.writeUInt32LE(frames * 4, 40);
  for (let n = 0; n < frames * 2; n++)
    bytes.writeInt16LE(Math.round(9000 * Math.sin(n / 40) * Math.sin(n / 9000)), 44 + 2 * n);
  return bytes;
}

const night = await openSong('lantern-ferry', 'dark');
await night.getByRole('button', { name: 'Rowing' }).click();
await night.getByRole('button', { name: /^B Bell/ }).click();
await night.keyboard.press('Space');
await night.waitForTimeout(4000);
await night.mouse.move(520, 300);
await night.waitForTimeout(200);
await take(night, 'main-view-night');

const day = await openSong('lantern-ferry');
await day.getByRole('button', { name: /^B Bell/ }).click();
await take(day, 'main-view-day');

const bench = await openSong('lantern-ferry');
await bench.getByRole('button', { name: /^B Bell/ }).click();
await bench.getByRole('separator', { name: 'Height of the bench' }).focus();
for (let i = 0; i < 6; i++) await bench.keyboard.press('ArrowUp');
await bench.keyboard.press('Tab');
await take(bench, 'bench-enlarged');

const choice = async (page, label, option) => {
  await page.getByRole('button', { name: new RegExp(`(^|\\s)${label}$`) }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
};

const phase = await openSong('lantern-ferry', 'dark');
await phase.getByRole('button', { name: /^B Bell/ }).click();
await choice(phase, 'Curve of the bench', 'Phase');
await take(phase, 'bench-phase');

const delay = await openSong('lantern-ferry');
await delay.getByRole('button', { name: /^A High-pass/ }).click();
await choice(delay, 'Curve of the bench', 'Group delay');
await take(delay, 'bench-group-delay');

const family = await openSong('lantern-ferry');
await family.getByRole('button', { name: /^A High-pass/ }).click();
await family.getByRole('button', { name: /(^|\s)Family$/ }).click();
await family.getByRole('option', { name: /elliptic/ }).hover();
await family.waitForTimeout(400);
await take(family, 'filter-chooser');

// What is shaped in these two is shaped in copies, which the list of songs does not show.
const copyOf = async (id) => (await (await fetch(url(`/api/songs/${id}/duplicate`), { method: 'POST' })).json()).id;
const removeSong = (id) => fetch(url(`/api/songs/${id}`), { method: 'DELETE' });
const sidesId = await copyOf('lantern-ferry');
const sides = await openSong(sidesId, 'dark');
await sides.getByTestId('lane-room').getByText('Room').click();
const words = async (page, text) => {
  await page.keyboard.press('n');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
};
await words(sides, 'bell 300 -3');
await choice(sides, 'Path of the bench', 'Side');
await sides.keyboard.press('Escape');
await words(sides, 'high shelf 6k +5');
await words(sides, 'high pass 150');
await choice(sides, 'Path of the bench', 'All paths');
await take(sides, 'bench-mid-side');

const linear = await openSong(sidesId);
await choice(linear, 'Phase of the equalizer', 'Linear (late, pre-ringing)');
await linear.getByText(/ms late/).waitFor();
await take(linear, 'linear-phase');
await removeSong(sidesId);

const render = await openSong('lantern-ferry');
await render.getByRole('button', { name: 'Render…' }).click();
await render.getByRole('button', { name: 'Render', exact: true }).click();
await render.getByText(/^rendering 0:[12]/).waitFor();
await take(render, 'render');

const answer = await fetch(url('/api/songs'), {
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ title: 'Harbour Lamps' }),
});
const importing = await open(`/songs/${(await answer.json()).id}`);
const files = ['Viola.wav', 'Guitar, second take.wav', 'Shaker.wav'].map((name) => ({
  name,
  mimeType: 'audio/wav',
  buffer: recording(),
}));
files.splice(1, 0, {
  name: 'Notes.flac',
  mimeType: 'audio/flac',
  buffer: Buffer.from('fLaC, but nothing that sounds'),
});
const chooser = importing.waitForEvent('filechooser');
await importing.getByRole('button', { name: 'Choose recordings…' }).click();
const names = files.map(({ name, buffer }) => {
  const file = path.join(dataDir, name);
  writeFileSync(file, buffer);
  return file;
});
await (await chooser).setFiles(names);
await importing.getByRole('group', { name: 'Viola', exact: true }).waitFor({ timeout: 60_000 });
await importing.waitForTimeout(500);
await take(importing, 'import');

const list = await open('/songs');
await take(list, 'song-list');

await browser.close();
server.kill();
console.log(`Pictures are in ${path.relative(root, folder)}/`);
process.exit(0);
