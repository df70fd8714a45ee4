export * from './at';
export * from './figures';
