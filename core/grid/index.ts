export * from './bar-score';
export * from './downbeat';
export * from './found-grid';
export * from './grid';
export * from './midi-file';
export * from './note-values';
export * from './onsets';
export * from './rhythm';
