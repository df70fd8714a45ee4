import { transfer } from 'comlink';
import type { KernelRequest } from '@/core/engine/compile-chain';
import { kernelBuffers } from '@/core/engine/convolution-kernel';
import { designKernel } from '@/core/engine/kernels';
import { offer } from './offer';

/** Designs the kernels of equalizers of linear phase, away from the page and the audio thread. */
const linearPhase = {
  /** Designs a kernel; a length once taken by an equalizer is kept, so that a drag does not go to and fro between two latencies. */
  design(request: KernelRequest) {
    const designed = designKernel(request, taps.get(request.key));
    taps.set(request.key, designed.taps);
    return transfer(designed, kernelBuffers(designed.kernel));
  },
};
const taps = new Map<string, number>();

export type LinearPhase = typeof linearPhase;

offer(linearPhase);
