/** `npm run screenshots`: the pictures of docs/screenshots/, made of the demo song in headless Chromium. */
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
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
process.once('exit', () => rmSync(dataDir, { recursive: true, force: true }));
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

// What is shaped in these is shaped in copies, which the list of songs does not show.
const copyOf = async (id) => (await (await fetch(url(`/api/songs/${id}/duplicate`), { method: 'POST' })).json()).id;
const removeSong = (id) => fetch(url(`/api/songs/${id}`), { method: 'DELETE' });
const words = async (page, text) => {
  await page.keyboard.press('n');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
};
// As many tracks as real songs have: the demo's, five times.
const manyId = await copyOf('lantern-ferry');
const { song: few } = await (await fetch(url(`/api/songs/${manyId}`))).json();
const copies = Array.from({ length: 60 - few.tracks.length }, (_, i) => {
  const { name, ...track } = few.tracks[i % few.tracks.length];
  return { ...track, id: `copy-${i}`, name: `${name}, take ${Math.floor(i / few.tracks.length) + 2}`, gainDb: -20 };
});
const added = copies.map((track, i) => ({
  id: `add-${i}`,
  edit: { kind: 'track.add', track, index: few.tracks.length + i },
}));
await fetch(url(`/api/songs/${manyId}/edits`), {
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ clientId: 'pictures', edits: added }),
});
const many = await openSong(manyId);
await many.keyboard.press('w');
await many.waitForTimeout(3000);
await take(many, 'whole-register');
await removeSong(manyId);

/** Chooses a track by its lane. */
const lane = (page, id) => page.getByTestId(`lane-${id}`).getByRole('button').first();
const chainsId = await copyOf('lantern-ferry');
const addProcessor = async (page, kind) => {
  await page.getByRole('button', { name: 'Add a processor' }).click();
  await page.getByRole('menuitem', { name: new RegExp(`^${kind}`) }).click();
};
const typed = async (page, label, text) => {
  await page.getByRole('textbox', { name: label, exact: true }).fill(text);
  await page.keyboard.press('Enter');
};
const observed = async (page) => {
  await page.locator('[data-observed]').waitFor({ timeout: 60_000 });
  await page.waitForTimeout(2500);
};
const looped = async (colorScheme) => {
  const page = await openSong(chainsId, colorScheme);
  await page.getByRole('button', { name: 'Rowing' }).click();
  return page;
};

const group = await looped();
await lane(group, 'concertina').click();
for (const id of ['harmony-high', 'harmony-low']) await lane(group, id).click({ modifiers: ['Control'] });
await group.keyboard.press('Control+g');
await words(group, 'hp 150 18');
await words(group, 'bell 500 2');
await addProcessor(group, 'Compressor');
await observed(group);
await group.getByRole('button', { name: 'From the recording' }).click();
await typed(group, 'Name of the processor', 'Bind the choir');
// The group is a lane like any other: with a claim, and its ridge measured from the sound.
await typed(group, 'Name', 'Choir');
await group.getByRole('button', { name: 'Propose one' }).click();
await observed(group);
await group.waitForTimeout(5000);
await take(group, 'compressor');

const microphones = await looped();
await lane(microphones, 'frame-drum').click();
await lane(microphones, 'frame-drum-underside').click({ modifiers: ['Control'] });
await microphones.getByRole('button', { name: 'Find delay and polarity' }).click();
await microphones.getByRole('button', { name: 'Hear it' }).waitFor({ timeout: 60_000 });
await microphones.waitForTimeout(500);
await take(microphones, 'two-microphones');

const sent = await looped('dark');
await lane(sent, 'dulcimer').click();
await lane(sent, 'lead-voice').click({ modifiers: ['Control'] });
await sent.getByRole('button', { name: /New return/ }).click();
await words(sent, 'hp 250 18');
await sent.getByRole('button', { name: 'Reverb', exact: true }).click();
await typed(sent, 'Lows', '0.6');
await sent.waitForTimeout(500);
await take(sent, 'return');

const giving = await looped();
await lane(giving, 'lead-voice').click();
await giving.getByRole('button', { name: /^C High shelf/ }).click();
await giving.getByRole('button', { name: 'Stays' }).click();
await typed(giving, 'Amount of the way', '-8');
await giving.waitForTimeout(500);
await take(giving, 'band-gives-way');
await removeSong(chainsId);

// The intro through a small radio, the bar before the landing thinned, a filter that opens: the last is open, the strip near.
const passagesId = await copyOf('lantern-ferry');
const seconds = (bar) => ((bar - 1) * 4 * 60) / 96;
const passage = (id, name, startSeconds, endSeconds, changes, more = {}) => ({
  id: `passage-${id}`,
  edit: {
    kind: 'passage.add',
    passage: {
      id,
      name,
      startSeconds,
      endSeconds,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      enabled: true,
      changes,
      ...more,
    },
    index: 0,
  },
});
const setTo = (stripId, of, partId, field, value, points = []) => ({
  figure: { stripId, of, partId, field },
  value,
  points,
});
const { song: voice } = await (await fetch(url(`/api/songs/${passagesId}`))).json();
const [lead] = voice.tracks.filter(({ id }) => id === 'lead-voice');
const [high] = lead.chain[0].bands;
await fetch(url(`/api/songs/${passagesId}/edits`), {
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({
    clientId: 'pictures',
    edits: [
      passage('radio', 'Radio', 0, seconds(5), [setTo('lead-voice', 'band', high.id, 'frequencyHz', 600)], {
        fadeOutSeconds: 2.5,
      }),
      passage('thin', 'Before Landing', seconds(12), seconds(13), [
        setTo('double-bass', 'strip', '', 'muted', true),
        setTo('dulcimer', 'strip', '', 'gainDb', -9),
      ]),
      passage('opening', 'Opening', seconds(9), seconds(13), [
        setTo('lead-voice', 'band', high.id, 'frequencyHz', 700, [
          { atSeconds: 0, value: 700 },
          { atSeconds: 6, value: 250 },
          { atSeconds: 10, value: 90 },
        ]),
      ]),
    ],
  }),
});
const passages = await openSong(passagesId);
await passages.keyboard.press('Alt+p');
const shown = await passages.getByTestId('song-strip').boundingBox();
await passages.mouse.move(shown.x + 0.68 * shown.width, shown.y + 30);
await passages.mouse.wheel(0, -230);
await passages.getByRole('slider', { name: 'Passage Opening', exact: true }).focus();
await passages.keyboard.press('Enter');
await passages.waitForTimeout(1500);
await take(passages, 'passages');
await removeSong(passagesId);

const overlaps = await openSong('lantern-ferry');
await overlaps.keyboard.press('Alt+6');
const pair = overlaps.getByRole('listitem', { name: /^(Cello|Lead voice) under (Cello|Lead voice)/ }).first();
await pair.getByRole('button', { name: /^Make room/ }).click();
await overlaps.getByRole('textbox', { name: 'Wanted clearance' }).fill('9');
await overlaps.keyboard.press('Enter');
await lane(overlaps, 'cello').click();
await overlaps.waitForTimeout(1500);
await take(overlaps, 'overlaps-make-room');

const room = await openSong('lantern-ferry');
await room.keyboard.press('Alt+0');
await room.getByRole('button', { name: /^Work it out/ }).click();
await room.getByRole('list', { name: /^Moves/ }).waitFor({ timeout: 60_000 });
await room.keyboard.press('h');
await room.waitForTimeout(1500);
await take(room, 'room');

const elsewhere = await openSong('lantern-ferry', 'dark');
await elsewhere.keyboard.press('h');
await elsewhere.waitForTimeout(1500);
await take(elsewhere, 'elsewhere');

const edge = await openSong('lantern-ferry', 'dark');
await lane(edge, 'cello').click();
await edge.keyboard.press('Alt+7');
await edge.getByText(/What limits it/).waitFor();
await edge.waitForTimeout(500);
await take(edge, 'edge');

const suspects = await openSong('lantern-ferry');
await suspects.keyboard.press('Alt+8');
await lane(suspects, 'frame-drum').click();
await suspects
  .getByRole('button', { name: /^Show why: Resonance/ })
  .first()
  .click({ timeout: 60_000 });
await suspects.waitForTimeout(500);
await take(suspects, 'suspects');

const score = await open('/songs/lantern-ferry/score');
await score
  .getByRole('row')
  .filter({ hasText: /^Mix.*dBTP/ })
  .waitFor({ timeout: 90_000 });
await score
  .getByRole('status')
  .filter({ hasText: /measur/ })
  .waitFor({ state: 'hidden', timeout: 90_000 });
await take(score, 'score');

const named = async (page, command) => {
  await page.keyboard.press('Control+k');
  await page.keyboard.type(command);
  await page.keyboard.press('Enter');
};
const handedOnId = await copyOf('lantern-ferry');
const title = { id: 'title', edit: { kind: 'song.set', changes: { title: 'Lantern Ferry' } } };
await fetch(url(`/api/songs/${handedOnId}/edits`), {
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ clientId: 'pictures', edits: [title] }),
});
const rendering = await openSong(handedOnId);
await rendering.getByRole('button', { name: 'Render…' }).click();
await rendering.getByRole('button', { name: 'What adds up' }).click();
await rendering.getByRole('checkbox', { name: 'Bring the mix to a loudness' }).click({ force: true });
await rendering.getByRole('button', { name: /^Render \d+ files/ }).click();
await rendering.getByRole('link', { name: /Frame-drum/ }).waitFor({ timeout: 60_000 });
await take(rendering, 'render');

const history = await openSong(handedOnId);
await lane(history, 'cello').click();
await words(history, 'bell 450 -5');
await words(history, 'hp 110 18');
await history.keyboard.press('Alt+h');
await history.getByRole('button', { name: /^See Cello: bell added/ }).click();
await history.waitForTimeout(1500);
await take(history, 'history');

const recall = await open(`/songs/${handedOnId}/recall`);
await recall
  .getByText(/on top \d+ % of the time/)
  .first()
  .waitFor({ timeout: 60_000 });
await recall.getByRole('heading', { name: 'Cello' }).scrollIntoViewIfNeeded();
await take(recall, 'recall');

const proving = await openSong(handedOnId);
await named(proving, 'Before and after for the client');
await proving.getByRole('checkbox', { name: 'Lead voice' }).click({ force: true });
await proving
  .getByRole('textbox', { name: 'Notes for the client' })
  .fill('The voice has more room in the second verse.');
await proving.getByRole('button', { name: 'Make it' }).click();
const seen = proving.context().waitForEvent('page', { timeout: 60_000 });
await proving.getByRole('link', { name: 'See' }).click({ timeout: 60_000 });
const proof = await seen;
await proof.getByRole('button', { name: 'Play The mix' }).click();
await proof.waitForTimeout(3000);
await take(proof, 'proof');
await proving.close();
await removeSong(handedOnId);

const list = await open('/songs');
await list.getByText(/in use: recordings/).waitFor();
await take(list, 'song-list');

await browser.close();
const ended = new Promise((done) => server.once('exit', done));
server.kill();
await ended;
console.log(`Pictures are in ${path.relative(root, folder)}/`);
process.exit(0);
