export * from './grid';
export * from './midi-file';
export * from './note-values';
export * from './onsets';
export * from './tempo';
