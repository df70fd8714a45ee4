import { designLinearPhase } from '../filters';
import type { KernelRequest } from './compile-chain';
import { toKernel, type ConvolutionKernel } from './convolution-kernel';

/** A kernel as it was asked for, with how far it is from the level that is wanted. */
export interface DesignedKernel {
  kernelId: string;
  kernel: ConvolutionKernel;
  worstErrorDb: number;
}

/** Designs a kernel. Takes up to some hundred milliseconds: not for the audio thread. @param atLeastTaps see `designLinearPhase` */
export function designKernel(
  { kernelId, equalizer, rateHz, channels }: KernelRequest,
  atLeastTaps = 0,
): DesignedKernel & { taps: number } {
  const design = designLinearPhase(equalizer, rateHz, channels, atLeastTaps);
  return { kernelId, kernel: toKernel(design), worstErrorDb: design.worstErrorDb, taps: design.taps };
}
