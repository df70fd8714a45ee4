export * from './finished';
export * from './names';
export * from './order';
export * from './tail';
export * from './target';
