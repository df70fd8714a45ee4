import { parentPort, workerData } from 'node:worker_threads';
import { compileSong, renderBlocks, renderTiming, TrackGroup, trackGroups } from '@/core/engine';
import { asOrvidError } from '@/core/errors';
import { FAILED, READY, slotArrays, SLOTS, TAKEN, type GroupTask } from './group-memory';
import { FileSources } from './sources';

/** A thread that runs some groups of a song's tracks, ahead of the one that adds them up. */
function run({ song, kernels, pageFiles, range, soundEndFrame, groups, memory }: GroupTask): void {
  const state = new Int32Array(memory.state);
  const compiled = compileSong(song);
  const sources = new FileSources(song, pageFiles, soundEndFrame);
  try {
    const indexes = trackGroups(compiled);
    const runners = groups.map((group) => new TrackGroup(compiled, sources.of, kernels, indexes[group]));
    const slots = slotArrays(memory);
    let block = 0;
    for (const { frame, frames } of renderBlocks(range, renderTiming(compiled, kernels))) {
      for (let taken = Atomics.load(state, TAKEN); block - taken >= SLOTS; taken = Atomics.load(state, TAKEN))
        Atomics.wait(state, TAKEN, taken);
      runners.forEach((runner, group) => {
        runner.mix(frame, frames);
        runner.sums.forEach((sum, i) => slots[block % SLOTS][group][i].set(sum));
      });
      Atomics.store(state, READY, ++block);
      Atomics.notify(state, READY);
    }
  } catch (error) {
    new TextEncoder().encodeInto(JSON.stringify(asOrvidError(error)), new Uint8Array(memory.message));
    Atomics.store(state, FAILED, 1);
    Atomics.notify(state, READY);
  } finally {
    sources.close();
  }
}

if (parentPort) run(workerData as GroupTask);
