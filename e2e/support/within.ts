import type { Page } from '@playwright/test';
import { BASE_URL } from './environment';

export const LIST_OF_SONGS = '/songs';

/** Whether a page of the server that the tests share shows something. @param path what the address has after the server's name */
export const isAt = (page: Page, path: RegExp): boolean =>
  page.url().startsWith(BASE_URL) && path.test(page.url().slice(BASE_URL.length));

/** Goes where a link would lead, without loading the page anew. */
export const goWithin = (page: Page, to: string): Promise<void> =>
  page.evaluate((path) => {
    const { next } = window as unknown as { next: { router: { push(to: string): void } } };
    next.router.push(path);
  }, to);

/** Opens the list of songs, and waits until it listens: it is seen before that, and what is pressed then is lost. */
export async function openList(page: Page, url = LIST_OF_SONGS): Promise<void> {
  await page.goto(url);
  // React marks the document that it has taken over.
  await page.waitForFunction(() => Object.keys(document).some((key) => key.startsWith('__reactContainer')));
}
