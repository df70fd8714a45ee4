import { Follower } from './follow';
import type { StripPlaces, StripWaits } from './latency';
import type { KeyTaps } from './keys';
import type { Kernels } from './chain-runner';
import type { CompiledStrip } from './compile';
import { keysOf, StripRunner } from './strip-runner';
import { allSums, type Sums } from './sum';

/** How late the parts of some strips are, in their order. */
export interface StripTiming {
  waits: readonly StripWaits[];
  places: readonly StripPlaces[];
  /** What is played next. */
  frame: number;
}

/** The runners of some strips, in their order; one goes on while its strip is there. */
export class StripRunners {
  all: StripRunner[] = [];
  private readonly kept = new Map<string, StripRunner>();

  /** @param measures false where nobody asks for their levels */
  constructor(
    private readonly rateHz: number,
    private readonly measures: boolean,
    private readonly taps: KeyTaps,
  ) {}

  of(id: string): StripRunner | undefined {
    return this.kept.get(id);
  }

  /**
   * @param timing how late their parts are, and the frame that is played next
   * @param immediately true where nothing is heard; a strip that is new is taken at once in any case
   */
  set(plans: readonly CompiledStrip[], timing: StripTiming, kernels: Kernels, immediately: boolean): void {
    this.all = plans.map((plan, i) => {
      const known = this.kept.get(plan.id);
      const runner = known ?? new StripRunner(plan, this.rateHz, this.measures);
      this.kept.set(plan.id, runner);
      const { timeline } = plan;
      runner.follower = timeline && new Follower(timeline, timing.places[i], this.rateHz);
      const now = runner.follower?.stateAt(timing.frame) ?? plan;
      // A plan is never changed in place; of a chain that has not changed, only a kernel may have come since.
      if (!known || timeline || runner.plan !== plan) runner.update(plan, now, !known);
      runner.chain.update(now.chain, kernels, !known || immediately, timing.waits[i].keys);
      runner.keys = keysOf(plan.chain, this.taps);
      runner.setWaits(timing.waits[i]);
      return runner;
    });
    const alive = new Set(plans.map(({ id }) => id));
    for (const [id, { chain }] of this.kept) {
      if (alive.has(id)) continue;
      chain.release();
      this.kept.delete(id);
    }
  }

  /** What passages change at a frame, before it is played. @param immediately true in silence */
  follow(frame: number, immediately: boolean): void {
    for (let i = 0; i < this.all.length; i++) this.all[i].follower?.to(frame, this.all[i], immediately);
  }

  reset(): void {
    for (const runner of this.all) runner.reset();
  }

  release(): void {
    for (const { chain } of this.kept.values()) chain.release();
  }

  /** Those that hold what is no number, or infinite, begin anew. */
  recover(): void {
    for (const runner of this.all) if (!runner.isSound) runner.reset();
  }
}

/**
 * Where a sample that is no number, or an infinite one, has come into the sums: this block is silent, and the strips that hold such a
 * sample begin anew, so that one bad sample is not heard for ever.
 * @param all who may have brought it
 */
export function recover(sums: Sums, frames: number, ...all: StripRunners[]): void {
  let isFinite = sums.master.isFinite(frames);
  for (let i = 0; i < sums.buses.length; i++) isFinite = sums.buses[i].isFinite(frames) && isFinite;
  if (isFinite) return;
  for (const sum of allSums(sums)) sum.clear(frames);
  for (const runners of all) runners.recover();
}
