export { Post } from './post';
export { typeName, TYPE_NAMES } from './type-names';
