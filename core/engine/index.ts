export { Cascade, type KeyedSection } from './cascade';
export {
  canAct,
  compileSong,
  equalizerSections,
  kernelRequests,
  fromDb,
  type CompiledSong,
  type CompiledTrack,
  type KernelRequest,
} from './compile';
export { Convolver, toKernel, type ConvolutionKernel } from './convolver';
export { designKernel, type DesignedKernel } from './kernels';
export { Engine, type Listening, type Tap } from './engine';
export { renderMix, type MixRange } from './render';
export { type LoopFrames } from './player';
export { PAGE_FRAMES, PagedSource, type SampleSource } from './source';
export { toStateVariable } from './state-variable';
