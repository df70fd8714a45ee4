export * from './alignment';
export * from './analysis';
export * from './band-levels';
export * from './bands';
export * from './binomial';
export * from './bleed';
export * from './chain-response';
export * from './cross-spectrum';
export * from './k-weighting';
export {
  fillFrom,
  interleave,
  interleavePair,
  measureKernel,
  type Layer,
  type PairSpectrum,
  type Predictor,
} from './kernel/kernel';
export * from './level-rows';
export * from './levels';
export * from './live-spectrum';
export * from './loudness';
export * from './loudness-meter';
export * from './match-curve';
export * from './meter';
export * from './peaks';
export * from './pitch';
export * from './stereo-image';
export * from './stereo-spectrum';
export * from './sound-meter';
export * from './spectrum';
export * from './true-peak';
