export { changesBetween, type SongChanges } from './changes';
export { Cascade, type KeyedSection } from './cascade';
export { compileSong, type CompiledSong, type CompiledTrack, isHeard, panGains } from './compile';
export { canAct, equalizerSections, kernelRequests, type KernelRequest } from './compile-chain';
export { kernelBuffers, type ConvolutionKernel } from './convolution-kernel';
export { Convolver } from './convolver';
export { designKernel, type DesignedKernel } from './kernels';
export { songKernels } from './song-kernels';
export { Engine } from './engine';
export { FloatCascade } from './float-cascade';
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
export { type Monitor, type Tap } from './overhearing';
export {
  inLongerBlocks,
  renderBlocks,
  renderMix,
  renderTiming,
  TrackGroup,
  trackGroups,
  type GroupRunners,
  type MixBlock,
  type MixRange,
} from './render';
export { type LoopFrames } from './loop-playback';
export { packedBytes, packSamples, SAMPLE_BITS_HEADER, unpackSamples, type SampleBits } from './packing/packed-samples';
export { StripEars, type StripListener } from './strip-ears';
export { SHIFT_TAPS } from './shifted-source';
export { PAGE_FRAMES, PagedSource, PIECE_FRAMES, PIECES_OF_PAGE, type SampleSource, type SourceOf } from './source';
