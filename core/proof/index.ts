export * from './order';
export * from './page';
