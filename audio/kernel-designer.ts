import type { DesignedKernel, KernelRequest } from '@/core/engine';

/** A kernel with its length. */
export type SizedKernel = DesignedKernel & { taps: number };

/** Has the kernels of equalizers of linear phase designed, one at a time; of what waits only the latest state is. */
export class KernelDesigner {
  private waiting: KernelRequest[] = [];
  private busy: KernelRequest | null = null;

  /** @param design takes some hundred milliseconds elsewhere */
  constructor(
    private readonly design: (request: KernelRequest) => Promise<SizedKernel>,
    private readonly onKernel: (request: KernelRequest, designed: SizedKernel) => void,
    private readonly onError: (message: string) => void,
  ) {}

  /** @param requests all that is missing, what is heard first first: what waited before is wanted no more */
  want(requests: readonly KernelRequest[]): void {
    this.waiting = requests.filter(({ kernelId }) => kernelId !== this.busy?.kernelId);
    if (!this.busy) void this.next();
  }

  private async next(): Promise<void> {
    for (;;) {
      this.busy = this.waiting.shift() ?? null;
      const { busy } = this;
      if (!busy) return;
      try {
        this.onKernel(busy, await this.design(busy));
      } catch (error) {
        this.onError(`Linear phase could not be worked out (${(error as Error).message}).`);
      }
    }
  }
}
