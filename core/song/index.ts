export * from './ids';
export * from './band';
export * from './edits';
export * from './groups';
export * from './landmarks';
export * from './layouts';
export * from './model';
export * from './undo';
