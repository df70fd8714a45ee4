export * from './band-phrase';
export * from './chain-file';
export * from './equalizer-file';
export * from './pcm-encoder';
export * from './processor-words';
export * from './wav';
export * from './typed-values';
export * from './differences';
