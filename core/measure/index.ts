export * from './analysis';
export * from './bands';
export * from './levels';
export * from './matched-gain';
export * from './peaks';
export * from './pitch';
export * from './spectrum';
