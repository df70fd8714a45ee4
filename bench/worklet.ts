import { createServer } from 'node:http';
import path from 'node:path';
import { readFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { chromium } from '@playwright/test';
import { compileSong } from '@/core/engine';
import { benchSong, percentile, table } from './support';

/**
 * What a quantum of 128 frames costs the audio thread in Chromium: 64 stereo tracks with ten bands each. The audio thread has no fine clock
 * of its own, so a worker writes the time into shared memory without pause, which takes one core; the cost is what passes between the
 * beginning and the end of `process`, waiting for a core included.
 */
const TRACKS = 64;
const RATE = 48000;
const SECONDS = 20;
const WARM_UP_QUANTA = 1500;
const QUANTA = (SECONDS * RATE) / 128;

const song = benchSong(TRACKS, 10, { audioId: 'ab'.repeat(32), channels: 2, lengthFrames: 1e9 });
const CLOCK =
  'onmessage = ({ data }) => { const clock = new Float64Array(data); for (;;) clock[0] = performance.now(); };';
const files: Record<string, { type: string; body: string | Buffer }> = {
  '/': { type: 'text/html', body: '<!doctype html><title>Bench</title>' },
  '/clock.js': { type: 'text/javascript', body: CLOCK },
  '/processor.js': {
    type: 'text/javascript',
    body: readFileSync(path.join('build', 'run', 'bench-worklet.js')),
  },
};
const server = createServer((request, response) => {
  const file = files[request.url ?? ''];
  response.writeHead(file ? 200 : 404, {
    'content-type': file?.type ?? 'text/plain',
    'cross-origin-opener-policy': 'same-origin',
    'cross-origin-embedder-policy': 'require-corp',
  });
  response.end(file?.body);
});
await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));

const browser = await chromium.launch({
  executablePath: process.env.ORVID_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--autoplay-policy=no-user-gesture-required'],
});
const page = await browser.newPage();
await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
const costs = await page.evaluate(
  async ({ compiled, quanta, rate }) => {
    const clock = new SharedArrayBuffer(8);
    const shared = new SharedArrayBuffer(8 * quanta);
    new Worker('/clock.js').postMessage(clock);
    const context = new AudioContext({ sampleRate: rate });
    await context.audioWorklet.addModule('/processor.js');
    const node = new AudioWorkletNode(context, 'timed-engine', {
      outputChannelCount: [2],
      processorOptions: { clock, costs: shared },
    });
    node.port.postMessage(compiled);
    node.connect(context.destination);
    const values = new Float64Array(shared);
    while (values[quanta - 1] === 0) await new Promise((done) => setTimeout(done, 200));
    return Array.from(values);
  },
  { compiled: compileSong(song), quanta: QUANTA + WARM_UP_QUANTA, rate: RATE },
);
await browser.close();
server.close();

const warm = costs.slice(WARM_UP_QUANTA);
const quantumMs = (128 / RATE) * 1000;
const share = (ms: number) => `${((100 * ms) / quantumMs).toFixed(0)} %`;
console.log(
  `${TRACKS} stereo tracks, ten bands each, ${SECONDS} s: cost of a quantum of ${quantumMs.toFixed(2)} ms.\n`,
);
console.log(
  table([
    ['percentile', 'ms', 'share of the quantum'],
    ...[0.5, 0.95, 0.99, 0.999].map((at) => [
      `${at * 100}`,
      percentile(warm, at).toFixed(3),
      share(percentile(warm, at)),
    ]),
  ]),
);
