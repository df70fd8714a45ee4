export * from './finder';
export * from './suspect';
