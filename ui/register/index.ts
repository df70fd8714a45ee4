export { endsOf, stepBothEnds, dragBothEnds } from './end-edits';
export { Register } from './register';
