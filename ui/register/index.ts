export { endBand, endsOf, stepBothEnds, dragBothEnds, type PassType } from './end-edits';
export { rowsNow } from './rows';
export { Register } from './register';
