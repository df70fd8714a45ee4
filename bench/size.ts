import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, openAsBlob, readdirSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { setTimeout as wait } from 'node:timers/promises';
import { chromium, type CDPSession, type Page, type Request } from '@playwright/test';
import { newId, type Song } from '@/core/song';
import { CHROMIUM, CHROMIUM_FLAGS } from '@/e2e/support/environment';
import { putEar } from '@/e2e/support/ear';
import { OwnServer } from '@/e2e/support/own-server';
import { openList } from '@/e2e/support/within';
import { BareBrowser } from './bare-browser';
import type { Job } from '@/server/jobs/job';
import { DRAG_SECONDS, toAndFro } from './mouse';
import { percentile, runMeasured, table } from './support';

/**
 * A song of real size, from the import to what the page holds while it plays: `npm run bench -- size [tracks] [minutes] [seconds]`, 60 stereo recordings
 * of eight minutes at 48 kHz and 24 bit played for three minutes where nothing is said. They are made of loops of a Debian package (sonic-pi-samples), each over
 * and over from a place of its own, so that no two files are alike. The import stands beside ffmpeg, which decodes, resamples and measures the same files.
 */
const [tracks = 60, minutes = 8, seconds = 180] = process.argv.slice(2).map(Number);
const SAMPLES = '/usr/share/sonic-pi/samples';
const UPLOADS = 4;
const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-size-'));
const files = path.join(folder, 'files');
const data = path.join(folder, 'data');
const server = new OwnServer(4877, data);

const secondsOf = async (work: () => unknown) => {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
};

/** Files of 44.1 kHz and 16 bit become a song's worth at 48 kHz and 24 bit. */
function makeFiles(): string[] {
  mkdirSync(files);
  const loops = readdirSync(SAMPLES).filter((name) => name.startsWith('loop_'));
  return Array.from({ length: tracks }, (_, i) => {
    const file = path.join(files, `${String(i + 1).padStart(2, '0')} ${loops[i % loops.length].slice(5, -5)}.wav`);
    const from = path.join(SAMPLES, loops[i % loops.length]);
    const shaped = ['-r', '48000', '-c', '2', '-b', '24', file, 'repeat', '-', 'trim', (0.37 * i).toFixed(2)];
    execFileSync('sox', ['-R', from, ...shaped, String(60 * minutes), 'gain', '-12']);
    return file;
  });
}

async function call<T>(pathname: string, init?: RequestInit): Promise<T> {
  const response = await fetch(`${server.url}/api${pathname}`, init);
  if (!response.ok) throw new Error(`${pathname}: ${response.status}`);
  return (await response.json()) as T;
}
const newSong = (title: string) =>
  call<{ id: string }>('/songs', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ title }),
  });

/** Imports files as the page does, some uploads at a time, and waits for the last job. */
async function importAll(songId: string, all: readonly string[]): Promise<void> {
  const left = [...all];
  const jobs: Job[] = [];
  const upload = async () => {
    for (let file = left.shift(); file !== undefined; file = left.shift()) {
      const name = encodeURIComponent(path.basename(file));
      const body = await openAsBlob(file);
      jobs.push((await call<{ job: Job }>(`/songs/${songId}/imports?name=${name}`, { method: 'POST', body })).job);
    }
  };
  await Promise.all(Array.from({ length: UPLOADS }, upload));
  for (const { id } of jobs)
    for (;;) {
      const { state, error } = (await call<{ job: Job }>(`/jobs/${id}`)).job;
      if (state === 'done') break;
      if (state !== 'running') throw new Error(error?.message);
      await wait(100);
    }
}

/** A number that the system keeps of a process. */
const statusOf = (pid: string, name: string) =>
  Number(new RegExp(`${name}:\\s*(\\d+)`).exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]);

/** The browser's page process with the most memory: MiB that are resident, and seconds of processor time so far. */
function pageProcess(): { mebibytes: number; cpuSeconds: number } {
  const all = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map((pid) => {
      try {
        if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer'))
          return { mebibytes: 0, cpuSeconds: 0 };
        const [user, system] = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ').slice(11, 13);
        return { mebibytes: statusOf(pid, 'VmRSS') / 1024, cpuSeconds: (Number(user) + Number(system)) / 100 };
      } catch {
        return { mebibytes: 0, cpuSeconds: 0 }; // it has ended meanwhile
      }
    });
  return all.reduce((most, sample) => (sample.mebibytes > most.mebibytes ? sample : most));
}

/** Until the page has needed less than a fifth of a core for half a second, and waits for nothing. @returns seconds from a moment until then */
async function restAfter(began: number, isWaiting: () => boolean): Promise<number> {
  const LOOK_MS = 250;
  let calm = 0;
  let before = pageProcess().cpuSeconds;
  while (performance.now() - began < 120_000) {
    await wait(LOOK_MS);
    const now = pageProcess().cpuSeconds;
    calm = !isWaiting() && now - before < (0.2 * LOOK_MS) / 1000 ? calm + 1 : 0;
    before = now;
    if (calm === 2) return (performance.now() - began - 2 * LOOK_MS) / 1000;
  }
  return Infinity;
}

/** Bytes that come over the network while something is done; what the browser has kept does not count. */
async function bytesDuring(cdp: CDPSession, work: () => Promise<unknown>): Promise<number> {
  let bytes = 0;
  const count = ({ encodedDataLength }: { encodedDataLength: number }) => (bytes += encodedDataLength);
  cdp.on('Network.loadingFinished', count);
  await work();
  cdp.off('Network.loadingFinished', count);
  return bytes;
}

/** @returns whether the page waits for an answer; what the server tells all the time is none */
function waitingPage(page: Page): () => boolean {
  const asked = new Set<Request>();
  page.on('request', (request) => request.url().includes('/events') || asked.add(request));
  const forget = (request: Request) => void asked.delete(request);
  page.on('requestfinished', forget).on('requestfailed', forget);
  return () => asked.size > 0;
}

const mebibytes = (bytes: number) => (bytes / 2 ** 20).toFixed(1);

/** From a press, as the page hears of it, until sound is on its way to the loudspeakers, s. */
async function untilSound(page: Page, press: () => Promise<void>): Promise<number> {
  await page.evaluate(() => {
    const heard = new Promise<number>((done) => {
      let pressed: number | undefined;
      const onPress = () => (pressed ??= window.performance.now());
      for (const kind of ['pointerdown', 'keydown']) window.addEventListener(kind, onPress, true);
      const look = () => {
        const { orvidEar } = window as unknown as { orvidEar?: AnalyserNode };
        if (pressed !== undefined && orvidEar) {
          const samples = new Float32Array(orvidEar.fftSize);
          orvidEar.getFloatTimeDomainData(samples);
          if (samples.subarray(-256).some((sample) => Math.abs(sample) > 1e-4))
            return done((window.performance.now() - pressed) / 1000);
        }
        setTimeout(look, 4);
      };
      look();
    });
    Object.assign(window, { orvidHeard: heard });
  });
  await press();
  return page.evaluate(() => (window as unknown as { orvidHeard: Promise<number> }).orvidHeard);
}

/** Times between frames while something goes on, ms. */
async function framesDuring(page: Page, work: () => Promise<unknown>): Promise<number[]> {
  await page.evaluate(() => {
    const seen = { times: [] as number[], isOver: false };
    const look = (time: number) => {
      seen.times.push(time);
      if (!seen.isOver) requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
    Object.assign(window, { orvidFrames: seen });
  });
  await work();
  const times = await page.evaluate(() => {
    const { orvidFrames } = window as unknown as { orvidFrames: { times: number[]; isOver: boolean } };
    orvidFrames.isOver = true;
    return orvidFrames.times;
  });
  return times.slice(1).map((time, i) => time - times[i]);
}

/** How often sound was late so far, as the foot says. */
async function lateCount(page: Page): Promise<number> {
  const said = /too late (once|\d+)/.exec((await page.getByTestId('engine-load').textContent()) ?? '')?.[1];
  return said === undefined ? 0 : said === 'once' ? 1 : Number(said);
}

/** Every track but one is muted, elsewhere in the song, while it plays. @returns seconds until another is heard that is let in */
async function untilLetIn(page: Page, songId: string): Promise<number> {
  const { song } = await call<{ song: Song }>(`/songs/${songId}`);
  const mute = (muted: boolean, stripIds: string[]) =>
    call(`/songs/${songId}/edits`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        clientId: 'bench',
        edits: stripIds.map((stripId) => ({ id: newId(), edit: { kind: 'strip.set', stripId, changes: { muted } } })),
      }),
    });
  const ids = song.tracks.map(({ id }) => id);
  await mute(true, ids);
  await page.getByText('silent').first().waitFor();
  const strip = (await page.getByTestId('song-strip').boundingBox())!;
  await page.mouse.click(strip.x + strip.width * 0.35, strip.y + strip.height / 2);
  await wait(3000);
  const first = page.getByTestId(`lane-${ids[0]}`).getByRole('button', { name: /^Mute / });
  const letIn = await untilSound(page, () => first.click());
  await mute(false, ids);
  return letIn;
}

/** How long a page is left alone before it counts as opened, ms. */
const SETTLED_MS = 15_000;
/** How long somebody looks at the list of songs before he clicks, ms. */
const LOOKED_AT_MS = 1500;

/** What a page's process holds above that of an empty song, opened and while it plays. */
async function measureMemory(emptyId: string, fullId: string, add: (what: string, value: string) => void) {
  const hold = async (songId: string, work: (browser: BareBrowser) => Promise<void>) => {
    const browser = new BareBrowser();
    try {
      await browser.open(`${server.url}/songs/${songId}`);
      await wait(SETTLED_MS);
      await work(browser);
    } finally {
      browser.close();
      await wait(1000);
    }
  };
  let ofEmpty = 0;
  await hold(emptyId, () => Promise.resolve(void (ofEmpty = pageProcess().mebibytes)));
  const above = () => `${(pageProcess().mebibytes - ofEmpty).toFixed(0)} MiB`;
  await hold(fullId, async (browser) => {
    add('page above an empty song, opened', above());
    await browser.pressSpace();
    let played = 0;
    for (const until of [0.1, 1 / 3, 2 / 3, 1].map((share) => share * seconds)) {
      await wait((until - played) * 1000);
      played = until;
      add(`page above an empty song, ${Math.round(until)} s played`, above());
    }
    add('the mix then', await browser.textOf('mix-peak'));
    add('the foot then', await browser.textOf('engine-load'));
  });
}

/** @param open opens a song in a page: loads its address, or clicks on its line */
async function measureOpening(page: Page, cdp: CDPSession, open: (page: Page) => Promise<unknown>) {
  let register = 0;
  let rest = 0;
  const bytes = await bytesDuring(cdp, async () => {
    const isWaiting = waitingPage(page);
    const began = performance.now();
    await open(page);
    await page.getByRole('heading', { name: 'Register' }).waitFor({ timeout: 120_000 });
    register = (performance.now() - began) / 1000;
    rest = await restAfter(began, isWaiting);
  });
  return { register, rest, bytes };
}

try {
  const rows: (string | number)[][] = [[`${tracks} stereo recordings of ${minutes} minutes`, '']];
  const add = (what: string, value: string) => rows.push([what, value]);
  const all = makeFiles();
  await server.start();
  const [empty, full] = [await newSong('Empty'), await newSong('Full')];
  const ours = await secondsOf(() => importAll(full.id, all));
  add('import', `${ours.toFixed(1)} s`);
  const again = await newSong('Again');
  add(
    'one of them, imported again into another song',
    `${(await secondsOf(() => importAll(again.id, all.slice(0, 1)))).toFixed(1)} s`,
  );
  const { wallSeconds } = runMeasured('sh', [
    '-c',
    `ls -d ${files}/* | tr '\\n' '\\0' | xargs -0 -P 2 -I N ffmpeg -v error -nostats -i N -filter_complex aresample=48000,ebur128=peak=true -f null -`,
  ]);
  add('ffmpeg: the same files, two at a time', `${wallSeconds.toFixed(1)} s`);
  add('server at the import, most', `${server.peakMebibytes.toFixed(0)} MiB`);
  const disk = Number(execFileSync('du', ['-sm', data], { encoding: 'utf8' }).split('\t')[0]);
  add('data folder (recordings as they came in, and their pages)', `${disk} MiB`);
  rmSync(files, { recursive: true });

  await measureMemory(empty.id, full.id, add);
  const browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_FLAGS });
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  await putEar(context);
  const opened = async () => {
    const page = await context.newPage();
    const cdp = await context.newCDPSession(page);
    await cdp.send('Network.enable');
    return { page, cdp };
  };
  // Scripts and fonts are in the browser's cache, as they are for those who come from the list of songs.
  const first = await opened();
  const load = (songId: string) => (page: Page) => page.goto(`${server.url}/songs/${songId}`, { waitUntil: 'commit' });
  await measureOpening(first.page, first.cdp, load(empty.id));
  await first.page.close();
  const lookAtList = async (page: Page) => {
    await openList(page, `${server.url}/songs`);
    await wait(LOOKED_AT_MS);
  };
  const click = (page: Page) => page.getByRole('link', { name: 'Full' }).click();
  const measured = async (
    how: string,
    open: (page: Page) => Promise<unknown>,
    prepare: (page: Page) => Promise<void> = () => Promise.resolve(),
  ) => {
    const { page, cdp } = await opened();
    await prepare(page);
    const { register, rest, bytes } = await measureOpening(page, cdp, open);
    add(`opened ${how}: Register`, `${register.toFixed(2)} s`);
    add(`opened ${how}: at rest`, `${rest.toFixed(1)} s`);
    add(`opened ${how}: fetched but for the sound`, `${mebibytes(bytes)} MiB`);
    return page;
  };
  await (await measured('by a click in the list of songs', click, lookAtList)).close();
  const page = await measured('by its address', load(full.id));
  add('first sound after Play', `${(await untilSound(page, () => page.keyboard.press('Space'))).toFixed(2)} s`);
  await wait(5000);
  const played10 = await framesDuring(page, () => wait(10_000));
  const milliseconds = (share: number) => `${percentile(played10, share).toFixed(0)} ms`;
  add('between frames while it plays: median, 99.9 %', `${milliseconds(0.5)}, ${milliseconds(0.999)}`);
  await page.getByRole('button', { name: '+ Add a band' }).click();
  await page.keyboard.type('high-pass 80');
  await page.keyboard.press('Enter');
  const post = page.getByRole('slider', { name: /high-pass/ }).first();
  const dragged = await framesDuring(page, () => toAndFro(page, post));
  add(`frames in a drag of ${DRAG_SECONDS} s while it plays`, String(dragged.length));
  add('late so far', String(await lateCount(page)));
  add('let in while it plays, until it is heard', `${(await untilLetIn(page, full.id)).toFixed(2)} s`);
  await page.keyboard.press('Space');
  await wait(3000);
  const strip = (await page.getByTestId('song-strip').boundingBox())!;
  const seek = await untilSound(page, async () => {
    await page.mouse.click(strip.x + strip.width * 0.8, strip.y + strip.height / 2);
    await page.keyboard.press('Space');
  });
  add('first sound after a seek elsewhere and Play', `${seek.toFixed(2)} s`);
  add('late in all', String(await lateCount(page)));
  await page.close();
  const score = await opened();
  const figures = await secondsOf(async () => {
    await score.page.goto(`${server.url}/songs/${full.id}/score`);
    await score.page.getByText('…', { exact: true }).first().waitFor();
    await score.page.getByText('…', { exact: true }).first().waitFor({ state: 'detached', timeout: 1_200_000 });
  });
  add('the score, measured', `${figures.toFixed(1)} s`);
  console.log(table(rows));
  await browser.close();
} finally {
  server.kill();
  if (existsSync(folder)) rmSync(folder, { recursive: true });
}
