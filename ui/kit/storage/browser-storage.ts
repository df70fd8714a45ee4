/** What a browser keeps for a page, as far as the page uses it. */
export type BrowserStorage = Pick<Storage, 'getItem' | 'setItem' | 'removeItem' | 'key' | 'length'>;

const NOTHING_KEPT: BrowserStorage = {
  length: 0,
  key: () => null,
  getItem: () => null,
  removeItem: () => undefined,
  setItem: () => {
    throw new Error('The browser keeps nothing for this page.');
  },
};

/** The browser's storage; where it is blocked, one that keeps nothing. What is written may be refused: it throws then. */
export function browserStorage(): BrowserStorage {
  try {
    return window.localStorage;
  } catch {
    return NOTHING_KEPT;
  }
}

/** What the browser did not keep, until the window is closed. */
const onlyHere = new Map<string, string>();

/** Remembers what a person has chosen; for this window alone where the browser has no room for it. @param value null to forget it */
export function remember(key: string, value: string | null): void {
  onlyHere.delete(key);
  try {
    if (value === null) browserStorage().removeItem(key);
    else browserStorage().setItem(key, value);
  } catch {
    if (value !== null) onlyHere.set(key, value);
  }
}

/** What was chosen, here or on an earlier visit; null for nothing. */
export const remembered = (key: string): string | null => onlyHere.get(key) ?? browserStorage().getItem(key);
