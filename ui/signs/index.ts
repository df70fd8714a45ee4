export { barbsOf, Post, shutSide } from './post';
export { typeName, typeNames } from './type-names';
