export { endsOf, stepBothEnds, dragBothEnds } from './end-edits';
export { rowsNow, useFolds } from './rows';
export { Register } from './register';
