import { parentPort, workerData } from 'node:worker_threads';
import { compileSong, renderBlocks, renderTiming, StripEars, TrackGroup, trackGroups } from '@/core/engine';
import { asOrvidError } from '@/core/errors';
import { FAILED, READY, slotArrays, SLOTS, TAKEN, TOLD, writeJson, type GroupTask } from './group-memory';
import { FileSources } from './sources';
import { StripMeters } from './strip-meters';

/** A thread that runs some groups of a song's tracks, ahead of the one that adds them up. */
function run({ song, kernels, pageFiles, range, soundEndFrame, groups, heard, memory }: GroupTask): void {
  const state = new Int32Array(memory.state);
  const compiled = compileSong(song);
  const sources = new FileSources(song, pageFiles, soundEndFrame);
  try {
    const indexes = trackGroups(compiled);
    const meters = heard && new StripMeters(heard, song.rateHz);
    const ears = meters ? new StripEars(meters, range) : null;
    const runners = groups.map((group) => new TrackGroup(compiled, sources.of, kernels, indexes[group], ears));
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
    if (!meters) return;
    ears!.flush();
    writeJson(memory.figures, meters.finish());
    Atomics.store(state, TOLD, 1);
    Atomics.notify(state, TOLD);
  } catch (error) {
    writeJson(memory.message, asOrvidError(error));
    Atomics.store(state, FAILED, 1);
    for (const waited of [READY, TOLD]) Atomics.notify(state, waited);
  } finally {
    sources.close();
  }
}

if (parentPort) run(workerData as GroupTask);
