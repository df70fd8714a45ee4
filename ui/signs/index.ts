export { barbsOf, Post, shutSide } from './post';
export { typeName, TYPE_NAMES } from './type-names';
