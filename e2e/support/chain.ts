import { expect, type Page } from './test';

/** What is done with the processors of a chain. */

/** The chain on the bench: its processors, in order. */
const chain = (page: Page) => page.getByRole('toolbar', { name: /^Chain of/ });
export const inChain = (page: Page, name: string) => chain(page).getByRole('button', { name, exact: true });
/** Adds a processor, which is chosen then. */
export async function add(page: Page, kind: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a processor' }).click();
  await page.getByRole('menuitem', { name: new RegExp(`^${kind}`) }).click();
  await expect(inChain(page, kind)).toHaveAttribute('aria-pressed', 'true');
}
/** Types a value into a field. */
export async function type(page: Page, label: string, text: string): Promise<void> {
  await page.getByRole('textbox', { name: label, exact: true }).fill(text);
  await page.keyboard.press('Enter');
}
/** Chooses from a list. */
export async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`${label}$`) }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
}
