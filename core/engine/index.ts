export { Cascade, type KeyedSection } from './cascade';
export { canAct, compileSong, equalizerSections, fromDb, type CompiledSong, type CompiledTrack } from './compile';
export { Engine, type Listening, type Tap } from './engine';
export { renderMix, type MixRange } from './render';
export { type LoopFrames } from './player';
export { PAGE_FRAMES, PagedSource, type SampleSource } from './source';
export { toStateVariable } from './state-variable';
