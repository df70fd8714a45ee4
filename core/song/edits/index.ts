export { applyEdit } from './apply';
export { changesNothing } from './changes';
export { invertEdit } from './invert';
export { batch, joinEdits } from './join';
export { figureKey } from './passage-figures';
export { checkIds, checkRouting } from './routing';
