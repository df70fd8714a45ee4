import { wrap, type Remote } from 'comlink';
import type { DesignedKernel, KernelRequest } from '@/core/engine';
import type { LinearPhase } from '@/workers/linear-phase';

/** Has the kernels of equalizers of linear phase designed: one at a time for each equalizer, the latest state of it next. */
export class KernelDesigner {
  private readonly worker: Worker;
  private readonly remote: Pick<Remote<LinearPhase>, 'design'>;
  private readonly busy = new Set<string>();
  private readonly next = new Map<string, KernelRequest>();

  constructor(
    private readonly onKernel: (request: KernelRequest, designed: DesignedKernel) => void,
    private readonly onError: (message: string) => void,
  ) {
    this.worker = new Worker('/audio/linear-phase.js');
    this.remote = wrap<LinearPhase>(this.worker);
  }

  need(request: KernelRequest): void {
    if (this.busy.has(request.key)) {
      this.next.set(request.key, request);
      return;
    }
    this.busy.add(request.key);
    this.remote
      .design(request)
      .then((designed) => this.onKernel(request, designed))
      .catch((error: Error) => this.onError(`Linear phase could not be worked out (${error.message}).`))
      .finally(() => {
        this.busy.delete(request.key);
        const waiting = this.next.get(request.key);
        this.next.delete(request.key);
        if (waiting) this.need(waiting);
      });
  }

  close(): void {
    this.worker.terminate();
  }
}
