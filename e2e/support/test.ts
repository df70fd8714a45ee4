import { test as base, type BrowserContext } from '@playwright/test';

/**
 * One browser window for all tests of a worker, in which each test has a page of its own: scripts and sound that were loaded before lie in
 * its cache. What a test leaves in the browser's storage is cleared.
 */
export const test = base.extend<object, { sharedContext: BrowserContext }>({
  sharedContext: [
    async ({ browser }, use, { project }) => {
      const { baseURL, viewport, contextOptions } = project.use;
      const context = await browser.newContext({ baseURL, viewport, ...contextOptions });
      context.setDefaultTimeout(project.use.actionTimeout ?? 0);
      await use(context);
      await context.close();
    },
    { scope: 'worker' },
  ],
  // A test that wants another kind of window has one of its own.
  context: async ({ sharedContext, browser, baseURL, viewport, contextOptions, hasTouch, colorScheme }, use) => {
    if (!hasTouch && colorScheme !== 'dark') {
      await use(sharedContext);
      return;
    }
    const own = await browser.newContext({ baseURL, viewport, ...contextOptions, hasTouch, colorScheme });
    await use(own);
    await own.close();
  },
  page: async ({ context }, use) => {
    const page = await context.newPage();
    await use(page);
    await page.evaluate(() => localStorage.clear()).catch(() => undefined);
    for (const opened of context.pages()) await opened.close();
    await context.clearCookies();
  },
});

export { expect, type APIRequestContext, type Locator, type Page } from '@playwright/test';
