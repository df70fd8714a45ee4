import type { Copied } from './equalizer-edits';

/** Equalizers that are dragged from one place of the page to another. */
const TYPE = 'application/x-orvid-equalizer';

export function carryEqualizer(transfer: DataTransfer, copied: Copied): void {
  transfer.setData(TYPE, JSON.stringify(copied));
  transfer.setData('text/plain', copied.text);
  transfer.effectAllowed = 'copy';
}

export const carriesEqualizer = (transfer: DataTransfer) => transfer.types.includes(TYPE);

/** What is dropped; null where it is something else. */
export function carriedEqualizer(transfer: DataTransfer): Copied | null {
  const text = transfer.getData(TYPE);
  return text ? (JSON.parse(text) as Copied) : null;
}
