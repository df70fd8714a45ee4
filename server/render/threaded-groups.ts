import os from 'node:os';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { compileSong, trackGroups, type GroupRunners, type MixRange } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import type { Song } from '@/core/song';
import { config } from '../config';
import {
  FAILED,
  makeGroupMemory,
  READY,
  readJson,
  slotArrays,
  SLOTS,
  TAKEN,
  TOLD,
  type GroupMemory,
  type GroupTask,
} from './group-memory';
import type { Measured, StripFigures } from './strip-meters';

/** A render shorter than this, in frames of all tracks together, is not worth a thread. */
const WORTH_THREADS_FRAMES = 30e6;

/** How many threads run a render's tracks: as many as the machine has cores; none for a short one. */
export function threadsFor(song: Song, range: MixRange, cores = os.availableParallelism()): number {
  const frames = (range.endFrame - range.startFrame) * song.tracks.length;
  return frames < WORTH_THREADS_FRAMES || cores < 2 ? 0 : Math.min(cores, trackGroups(compileSong(song)).length);
}

/** The groups of a render in threads of their own. */
export interface ThreadedGroups extends GroupRunners {
  /** What was measured of strips, when all was rendered. */
  figures<K extends Measured>(): Record<string, StripFigures[K]>;
}

/**
 * Runs the groups of a song's tracks in threads of their own, some blocks ahead of the thread that adds them up, which waits for them.
 * @returns the sums for `renderMix`, and what ends the threads
 */
export function threadedGroups(task: Omit<GroupTask, 'groups' | 'memory'>, threads: number): ThreadedGroups {
  const compiled = compileSong(task.song);
  const groups = trackGroups(compiled).map((_, group) => group);
  const sums = 2 * (1 + compiled.buses.length);
  const runners = Array.from({ length: threads }, (_, thread) => {
    const own = groups.filter((group) => group % threads === thread);
    const memory = makeGroupMemory(own.length, sums, task.heard?.stripIds.length ?? 0);
    const worker = new Worker(path.join(config().buildDir, 'render-groups.mjs'), {
      workerData: { ...task, groups: own, memory } satisfies GroupTask,
    });
    worker.on('error', () => undefined); // told by the state that it shares
    return { worker, own, memory, state: new Int32Array(memory.state), slots: slotArrays(memory) };
  });
  let block = 0;
  const figures: Record<string, StripFigures[Measured]> = {};
  function* sumsOfBlock(): Generator<readonly Float64Array[]> {
    for (const { state, memory } of runners) waitFor(state, memory, READY, block);
    for (const group of groups) {
      const { own, slots } = runners[group % threads];
      yield slots[block % SLOTS][own.indexOf(group)];
    }
    block++;
    for (const { state } of runners) {
      Atomics.store(state, TAKEN, block);
      Atomics.notify(state, TAKEN);
    }
  }
  return {
    block: sumsOfBlock,
    finish: () => {
      if (!task.heard) return;
      for (const { state, memory } of runners) {
        waitFor(state, memory, TOLD, 0);
        Object.assign(figures, readJson(memory.figures));
      }
    },
    end: () => runners.forEach(({ worker }) => void worker.terminate()),
    figures: <K extends Measured>() => figures as Record<string, StripFigures[K]>,
  };
}

/** A thread that has made no block for so long is taken for dead: it cannot tell of its end to one that waits for it. */
const DEAD_AFTER_MS = 30_000;

/**
 * Waits until a place of the state is above a number: of {@link READY} until the block of that number is ready.
 * @throws OrvidError what went wrong in the thread; `internal` where it has died
 */
export function waitFor(
  state: Int32Array,
  { message }: Pick<GroupMemory, 'message'>,
  place: typeof READY | typeof TOLD,
  number: number,
  deadAfterMs = DEAD_AFTER_MS,
): void {
  for (let now = Atomics.load(state, place); now <= number; now = Atomics.load(state, place)) {
    if (Atomics.load(state, FAILED) === 1) {
      const error = readJson<Pick<OrvidError, 'code' | 'message' | 'kept'>>(message);
      throw new OrvidError(error.code, error.message, error.kept);
    }
    if (Atomics.wait(state, place, now, deadAfterMs) === 'timed-out')
      throw new OrvidError(
        'internal',
        'A thread of the render has ended unexpectedly.',
        'Nothing was written. Start the render again.',
      );
  }
}
