import type { Locator, Page } from '@playwright/test';

const MOVES_PER_SECOND = 125;
/** How long a drag takes. */
export const DRAG_SECONDS = 3;

/** Drags a handle to and fro for three seconds, as a mouse does. No move waits for the page to have answered the one before. */
export async function toAndFro(page: Page, handle: Locator): Promise<void> {
  const box = (await handle.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  const session = await page.context().newCDPSession(page);
  const sent: Promise<unknown>[] = [];
  const started = performance.now();
  for (let i = 0; i < DRAG_SECONDS * MOVES_PER_SECOND; i++) {
    const place = { x: x + 80 * Math.sin(i / 25), y, button: 'left' as const, buttons: 1 };
    sent.push(session.send('Input.dispatchMouseEvent', { type: 'mouseMoved', ...place }));
    const wait = started + ((i + 1) * 1000) / MOVES_PER_SECOND - performance.now();
    if (wait > 0) await new Promise((done) => setTimeout(done, wait));
  }
  await Promise.all(sent);
  await session.detach();
  await page.mouse.up();
}
