export * from './from-name';
export * from './from-sound';
