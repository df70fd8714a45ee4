import { Cascade } from './cascade';
import type { CompiledChain } from './compile';
import { Convolver, delayKernel, type ConvolutionKernel } from './convolver';

/** Kernels by their ids. */
export type Kernels = ReadonlyMap<string, ConvolutionKernel>;

interface RunningConvolution {
  key: string;
  kernel: ConvolutionKernel;
  convolver: Convolver;
}

/** Blocks of convolvers are shifted against each other by this many frames, so that their work is spread over time. */
const SHIFT_FRAMES = 128;
const SHIFTS = 4;
let made = 0;

/** The processors of a strip. */
export class ChainRunner {
  private readonly cascade: Cascade;
  private convolutions: RunningConvolution[] = [];

  constructor(rateHz: number) {
    this.cascade = new Cascade(rateHz);
  }

  /** The kernel of a convolution of this chain: the one that is wanted, or the last one while that is on its way. */
  private kernelFor({ key, kernelId }: CompiledChain['convolutions'][number], kernels: Kernels) {
    return kernels.get(kernelId) ?? this.convolutions.find((convolution) => convolution.key === key)?.kernel;
  }

  /** How late the chain will be with these settings, frames. */
  latencyWith(chain: CompiledChain, kernels: Kernels): number {
    return chain.convolutions.reduce(
      (sum, convolution) => sum + (this.kernelFor(convolution, kernels)?.latencyFrames ?? 0),
      0,
    );
  }

  update(chain: CompiledChain, kernels: Kernels, immediately: boolean): void {
    const { sections, monitoring, bypassed } = chain;
    this.cascade.setTarget(bypassed ? monitoring : [...sections, ...monitoring], immediately);
    this.convolutions = chain.convolutions.flatMap((wanted) => {
      const kernel = this.kernelFor(wanted, kernels);
      if (!kernel) return [];
      const heard = bypassed ? delayKernel(kernel) : kernel;
      const known = this.convolutions.find((convolution) => convolution.key === wanted.key);
      if (known?.kernel.partitions !== kernel.partitions)
        return [{ key: wanted.key, kernel, convolver: new Convolver(heard, (made++ % SHIFTS) * SHIFT_FRAMES) }];
      known.convolver.setKernel(heard, immediately);
      return [{ ...known, kernel }];
    });
  }

  process(left: Float64Array, right: Float64Array | null, frames: number): void {
    this.cascade.process(left, right, frames);
    for (let i = 0; i < this.convolutions.length; i++) this.convolutions[i].convolver.process(left, right, frames);
  }

  /** False where the memory of the filters may hold what is no number, or infinite. */
  get isSound(): boolean {
    return this.convolutions.length === 0 && this.cascade.isSound;
  }

  reset(): void {
    this.cascade.reset();
    for (const { convolver } of this.convolutions) convolver.reset();
  }
}
