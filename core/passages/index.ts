export * from './at';
export * from './capture';
export * from './differences';
export * from './figures';
export * from './spans';
export * from './thin';
export * from './view';
export * from './words';
