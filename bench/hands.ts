import { isDeepStrictEqual } from 'node:util';
import { rmSync } from 'node:fs';
import { chromium, type Page } from '@playwright/test';
import type { Song } from '@/core/song';
import { CHROMIUM, CHROMIUM_FLAGS, newDataFolder } from '@/e2e/support/environment';
import { OwnServer } from '@/e2e/support/own-server';
import { random } from './recordings/recordings';

/**
 * Hands that do anything, by seed: keys, clicks, typed values, drags, the wheel and every command, on the demo in the real page. Whatever they did, the
 * page and the server report no error, and when all of it is undone the song is what it was. `npm run bench -- hands [seeds] [actions]`, by name only.
 */
const SEEDS = Number(process.argv[2] ?? 4);
const ACTIONS = Number(process.argv[3] ?? 250);

const KEYS = [
  ...'abcdefghijklmnopqrstuvwxyz1230,.-+[]/?',
  ...['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'Home', 'End', 'PageUp', 'PageDown'],
  ...['Delete', 'Backspace', 'Escape', 'Enter', 'Tab', 'Shift+Tab', 'F2', ' '],
  ...[...'zdcvxakg'].map((letter) => `Control+${letter}`),
  ...['Control+Shift+z', 'Shift+ArrowUp', 'Shift+ArrowDown', 'Alt+ArrowUp', 'Alt+ArrowDown', 'Shift+ArrowRight'],
  ...[...'pochr12345'].map((letter) => `Alt+${letter}`),
  ...[...'ndsmaegl'].map((letter) => `Shift+${letter}`),
];
const VALUES = [
  ...['-3', '0', '100', '1k', '440', 'A4+20', 'bell 300 -3 2', 'shelf 9k 4', 'hp 80', 'abc', '', '-999', '1e9', '0:10'],
  ...['12.5', 'L20', 'R 30', '50 %', '-6 dB', '3 ms', '1/8', '4:1', 'C♯4 +48 ct', '3/4', 'ünï ♯ <b>', '2,5'],
];
/** What leads out of the song, or opens the system's own windows, is left alone. */
const LEADS_AWAY = /render|download|songs|recall|print|hand|files|score|pack|leave|add recordings|midi file/i;

const CLICKED = 'button, [role=button], [role=radio], [role=tab], [role=switch], [role=option], [role=menuitem]';
const TYPED = 'input:not([type=file], [type=checkbox], [type=radio]), textarea';

/** One of the elements that are in sight: its middle and its name. */
const oneOf = (page: Page, selector: string, share: number) =>
  page.evaluate(
    ([wanted, at]) => {
      const seen = [...document.querySelectorAll<HTMLElement>(wanted)].filter((element) => {
        const { width, height, top, left, right, bottom } = element.getBoundingClientRect();
        const isInside = top >= 0 && left >= 0 && right <= innerWidth && bottom <= innerHeight;
        return width > 0 && height > 0 && isInside && !(element as HTMLButtonElement).disabled;
      });
      const element = seen[Math.floor(at * seen.length)];
      if (!element) return null;
      const { left, top, width, height } = element.getBoundingClientRect();
      const name = element.getAttribute('aria-label') ?? element.textContent;
      return { x: left + width / 2, y: top + height / 2, name };
    },
    [selector, share] as const,
  );

const folder = newDataFolder();
const server = new OwnServer(4875, folder);
await server.start();
const browser = await chromium.launch({ executablePath: CHROMIUM, args: [...CHROMIUM_FLAGS] });
let failed = 0;

async function campaign(seed: number): Promise<string[]> {
  const draw = random(`hands ${seed}`);
  const pick = <T>(from: readonly T[]): T => from[Math.floor(draw() * from.length)];
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
  page.setDefaultTimeout(5000);
  const found: string[] = [];
  const done: string[] = [];
  const report = (what: string) => found.push(`${what}\n  after: ${done.slice(-8).join(' · ')}`);
  page.on('pageerror', (error) => report(`error: ${error.message}`));
  page.on('console', (message) => message.type() === 'error' && report(`console: ${message.text()}`));
  page.on('response', (answer) => answer.status() >= 400 && report(`${answer.status()}: ${answer.url()}`));
  const { id } = (await (
    await page.request.post(`${server.url}/api/songs/lantern-ferry/duplicate`, { data: {} })
  ).json()) as { id: string };
  const saved = async () =>
    ((await (await page.request.get(`${server.url}/api/songs/${id}`)).json()) as { song: Song }).song;
  const first = await saved();
  await page.goto(`${server.url}/songs/${id}`);
  await page.getByText(/kHz · engine/).waitFor({ timeout: 60_000 });

  const place = () => ({ x: 5 + draw() * 1270, y: 60 + draw() * 720 });
  const leaveFields = () => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  const actions: Record<string, () => Promise<unknown>> = {
    key: async () => {
      const key = pick(KEYS);
      done.push(`key ${key}`);
      await page.keyboard.press(key);
    },
    click: async () => {
      const at = await oneOf(page, CLICKED, draw());
      if (!at || LEADS_AWAY.test(at.name ?? '')) return;
      done.push(`click ${at.name}`);
      await page.mouse.click(at.x, at.y);
    },
    type: async () => {
      const at = await oneOf(page, TYPED, draw());
      if (!at) return;
      const value = pick(VALUES);
      done.push(`${at.name} = ${value}`);
      await page.mouse.click(at.x, at.y);
      await page.keyboard.press('Control+a');
      await page.keyboard.type(value);
      const end = pick(['Enter', 'Enter', 'Tab', 'Escape', 'elsewhere']);
      if (end === 'elsewhere') await page.mouse.click(10 + draw() * 200, 160 + draw() * 300);
      else await page.keyboard.press(end);
    },
    drag: async () => {
      const [from, to] = [place(), place()];
      const key = pick(['', '', '', '', 'Shift', 'Alt', 'Control']);
      done.push(`drag ${Math.round(from.x)},${Math.round(from.y)} to ${Math.round(to.x)},${Math.round(to.y)} ${key}`);
      if (key) await page.keyboard.down(key);
      await page.mouse.move(from.x, from.y);
      await page.mouse.down();
      await page.mouse.move(to.x, to.y, { steps: 6 });
      if (draw() < 0.1) await page.keyboard.press(pick(KEYS));
      await page.mouse.up();
      if (key) await page.keyboard.up(key);
    },
    wheel: async () => {
      const { x, y } = place();
      done.push('wheel');
      await page.mouse.move(x, y);
      await page.mouse.wheel((draw() - 0.5) * 300, (draw() - 0.5) * 600);
    },
    command: async () => {
      await page.keyboard.press('Escape');
      await leaveFields();
      await page.keyboard.press('Control+k');
      await page.waitForTimeout(120);
      const options = page.getByRole('option');
      const option = options.nth(Math.floor(draw() * (await options.count())));
      const name = (await options.count()) > 0 ? await option.innerText() : '';
      if (name === '' || LEADS_AWAY.test(name)) return page.keyboard.press('Escape');
      done.push(`command ${name.replaceAll('\n', ' ')}`);
      await option.click();
    },
  };
  const kinds = ['key', 'key', 'key', 'click', 'click', 'type', 'drag', 'drag', 'wheel', 'command', 'command'];
  for (let i = 0; i < ACTIONS; i++) {
    // What vanished before it was reached is no fault.
    await actions[pick(kinds)]().catch(() => undefined);
    await page.waitForTimeout(30);
    const path = new URL(page.url()).pathname;
    if (path !== `/songs/${id}`) {
      report(`led to ${path}`);
      break;
    }
    const back = page.getByRole('button', { name: 'Return', exact: true });
    if (i % 8 === 0 && (await back.count()) > 0) await back.click().catch(() => undefined);
  }

  for (let i = 0; i < 4; i++) await page.keyboard.press('Escape');
  const back = page.getByRole('button', { name: 'Return', exact: true });
  if ((await back.count()) > 0) await back.click();
  await page.getByText(/^Saved, revision \d+$/).waitFor({ timeout: 20_000 });
  const changed = JSON.stringify(await saved()) === JSON.stringify(first) ? 'nothing' : 'the song';
  let before = '';
  for (let round = 0; round < 40; round++) {
    for (let i = 0; i < 20; i++) {
      await leaveFields();
      await page.keyboard.press('Control+z');
    }
    await page.waitForTimeout(1200);
    const now = JSON.stringify(await saved());
    if (now === before) break;
    before = now;
  }
  if (!isDeepStrictEqual(await saved(), first)) report('undone, the song is not what it was');
  console.log(`seed ${seed}: ${done.length} actions changed ${changed}, ${found.length === 0 ? 'no fault' : 'FAULTS'}`);
  await page.close();
  return found;
}

try {
  for (let seed = 1; seed <= SEEDS; seed++) {
    const found = await campaign(seed);
    failed += found.length;
    if (found.length > 0) console.log(found.join('\n'));
  }
} finally {
  await browser.close();
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
}
process.exit(failed === 0 ? 0 : 1);
