export * from './ids';
export * from './band';
export * from './edits';
export * from './model';
export * from './undo';
