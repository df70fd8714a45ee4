export { changesBetween, type SongChanges } from './changes';
export { Cascade, type KeyedSection } from './cascade';
export {
  canAct,
  compileSong,
  equalizerSections,
  kernelRequests,
  type CompiledSong,
  type CompiledTrack,
  type KernelRequest,
} from './compile';
export { Convolver, type ConvolutionKernel } from './convolver';
export { designKernel, type DesignedKernel } from './kernels';
export { Engine, type Monitor, type Tap } from './engine';
export {
  compileHearing,
  heardSong,
  PLAIN_HEARING,
  type Earshot,
  type Hearing,
  type Probe,
  type Scope,
} from './hearing';
export { MAX_BLOCK } from './kernel/layout';
export { renderBlocks, renderMix, TrackGroup, trackGroups, type GroupSums, type MixRange } from './render';
export { type LoopFrames } from './player';
export { PAGE_FRAMES, PagedSource, type SampleSource } from './source';
