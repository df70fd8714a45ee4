import { test as base, type BrowserContext, type Page } from '@playwright/test';
import { putEar } from './ear';
import { temporaryFolder } from './folder';
import { goWithin, isAt, LIST_OF_SONGS } from './within';

/** What tests listen to. */
const HEARD = ['console', 'dialog', 'pageerror', 'request', 'requestfailed', 'requestfinished', 'response'] as const;
/** A page of the same origin that shows and runs nothing. */
const RESTING_PAGE = '/api/songs';

/** Goes to the list of songs as by a link: opening the next one from there costs half as much, and shows whether anything is left of this one. */
async function leaveSong(page: Page): Promise<void> {
  await goWithin(page, LIST_OF_SONGS);
  await page.getByRole('button', { name: 'New song…' }).waitFor();
}

/**
 * Leaves a tab as it was before a test. What the person has chosen (theme, what is shown) does not end with a song: after that
 * it begins anew.
 */
async function tidy(page: Page, viewport: { width: number; height: number } | null): Promise<void> {
  for (const event of HEARD) page.removeAllListeners(event);
  await page.unrouteAll({ behavior: 'ignoreErrors' });
  for (const key of ['Shift', 'Control', 'Alt', 'k', 'p', 's']) await page.keyboard.up(key);
  await page.mouse.up();
  await page.emulateMedia({ media: null, colorScheme: null, forcedColors: null });
  if (viewport) await page.setViewportSize(viewport);
  const hasChoices = await page.evaluate(() => localStorage.length > 0);
  if (isAt(page, /^\/songs\/[\w-]+$/) && !hasChoices) await leaveSong(page);
  else await page.goto(RESTING_PAGE);
  await page.evaluate(() => {
    localStorage.clear();
    sessionStorage.clear();
  });
  await page.mouse.move(0, 0);
}

/**
 * One browser and one tab for all tests of a worker: scripts and sound that were loaded before lie in its cache, scripts as they were
 * compiled, and opening a tab costs as much as opening a song. What a test changes about it is undone.
 */
export const test = base.extend<object, { sharedContext: BrowserContext }>({
  sharedContext: [
    async ({ playwright }, use, { project }) => {
      const { baseURL, viewport, contextOptions, launchOptions, actionTimeout } = project.use;
      const profile = temporaryFolder('orvid-browser');
      const context = await playwright.chromium.launchPersistentContext(profile, {
        ...launchOptions,
        ...contextOptions,
        baseURL,
        viewport,
      });
      context.setDefaultTimeout(actionTimeout ?? 0);
      await putEar(context);
      await use(context);
      await context.close();
    },
    { scope: 'worker' },
  ],
  // A test that wants another kind of window has one of its own.
  context: async ({ sharedContext, playwright, launchOptions, baseURL, viewport, contextOptions, hasTouch }, use) => {
    if (!hasTouch) {
      await use(sharedContext);
      return;
    }
    const browser = await playwright.chromium.launch(launchOptions);
    await use(await browser.newContext({ baseURL, viewport, ...contextOptions, hasTouch }));
    await browser.close();
  },
  page: async ({ context, viewport }, use, testInfo) => {
    const page = context.pages()[0] ?? (await context.newPage());
    await use(page);
    if (page.isClosed() || testInfo.status !== 'passed') await page.close();
    else await tidy(page, viewport).catch(() => page.close());
    for (const other of context.pages()) if (other !== page) await other.close();
    await context.clearCookies();
  },
});

export { expect, type APIRequestContext, type Locator, type Page } from '@playwright/test';
