export { Cascade, type KeyedSection } from './cascade';
export {
  chainSections,
  compileChain,
  compileSong,
  fromDb,
  panGains,
  type CompiledSong,
  type CompiledTrack,
} from './compile';
export { Engine, MAX_BLOCK, PLAIN_LISTENING, type Listening, type Tap } from './engine';
export { renderMix, type MixRange } from './render';
export { Player, type LoopFrames } from './player';
export { PAGE_FRAMES, PagedSource, type SampleSource } from './source';
export { toStateVariable } from './state-variable';
