import type { CompiledSong, ConvolutionKernel, LoopFrames, SongChanges } from '@/core/engine';

/** What the page says to the audio thread. */
export type EngineMessage =
  | { type: 'song'; song: CompiledSong }
  | { type: 'changes'; changes: SongChanges }
  | { type: 'kernel'; kernelId: string; kernel: ConvolutionKernel }
  | { type: 'play' }
  | { type: 'stop' }
  | { type: 'seek'; frame: number }
  | { type: 'loop'; loop: LoopFrames | null }
  | { type: 'recording'; audioId: string; channels: 1 | 2; lengthFrames: number; table: SharedArrayBuffer }
  | { type: 'forget'; audioId: string }
  | { type: 'monitor'; stripId: string | null; left: SharedArrayBuffer; right: SharedArrayBuffer }
  | { type: 'watch'; stripId: string; ids: readonly string[] }
  | { type: 'taps'; rings: { trackId: string; before: SharedArrayBuffer | null; after: SharedArrayBuffer }[] };

export const PROCESSOR_NAME = 'orvid-engine';
