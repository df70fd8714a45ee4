import { availableParallelism } from 'node:os';
import { defineConfig } from '@playwright/test';
import { BASE_URL, CHROMIUM, CHROMIUM_FLAGS, PORT, serverEnvironment } from './e2e/support/environment';

/** As many browsers as there are cores: each wants one for itself. */
const WORKERS = Math.min(4, Math.max(2, availableParallelism()));

/** The real interface, served by the built application with the demo song, in headless Chromium. */
export default defineConfig({
  testDir: 'e2e',
  workers: WORKERS,
  fullyParallel: true,
  // A test that passes only the second time is named at the end of the run: it is looked into, and holds nobody up.
  retries: 1,
  timeout: 240_000,
  // Waiting ends when what is waited for is there; a slow machine may take its time.
  expect: { timeout: 60_000 },
  reporter: process.env.PLAYWRIGHT_JSON_OUTPUT_FILE ? [['list'], ['json']] : [['list']],
  use: {
    baseURL: BASE_URL,
    viewport: { width: 1280, height: 800 },
    actionTimeout: 60_000,
    // Live pictures are drawn by the processor here: less often, and the tests are sooner done.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: { executablePath: CHROMIUM, args: CHROMIUM_FLAGS },
    // A trace costs half as much again: `npx playwright test --trace retain-on-failure` makes one.
    trace: 'off',
  },
  webServer: {
    command: 'node scripts/demo.mjs',
    url: `${BASE_URL}/songs`,
    timeout: 180_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 5000 },
    reuseExistingServer: false,
    env: serverEnvironment(PORT),
  },
});
