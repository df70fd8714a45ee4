export * from './compare';
export * from './html';
export * from './recall';
export * from './writers';
