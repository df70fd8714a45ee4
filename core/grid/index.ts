export * from './grid';
export * from './midi-file';
export * from './onsets';
export * from './tempo';
