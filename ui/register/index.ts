export { endsOf, stepBothEnds, dragBothEnds } from './end-edits';
export { rowsNow } from './rows';
export { Register } from './register';
