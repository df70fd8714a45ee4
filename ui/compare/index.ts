export { BlindDialog } from './blind-dialog';
export { useBlind } from './blind-store';
export { ComparePanel } from './compare-panel';
