import { PAGE_FRAMES } from '@/core/engine';
import { STEPS_PER_SECOND, type FrequencyBand, type StepRange } from '@/core/measure';
import { spectrumOverTime, type OverTimeSize } from '@/core/suspects/over-time';
import { runInWorker } from '../workers/pool';
import { pagesOf, type StoredRecording } from './measure-recording';
import { storedRecording } from './measured';
import { withWholeRecordings } from './mending';
import { needAudio } from './store';

export interface OverTimeTask extends StoredRecording {
  stretch: StepRange;
  range: FrequencyBand;
  size: OverTimeSize;
}

/** A picture of a recording over time. What of the stretch lies beyond its end is silent. @throws OrvidError `not-found`, `damaged` */
export async function pictureOverTime(
  audioId: string,
  stretch: StepRange,
  range: FrequencyBand,
  size: OverTimeSize,
  signal: AbortSignal,
): Promise<Uint8Array> {
  await needAudio(audioId);
  return withWholeRecordings([audioId], async () => {
    const task: OverTimeTask = { ...(await storedRecording(audioId)), stretch, range, size };
    return runInWorker<Uint8Array>('overTime', task, signal);
  });
}

/** Draws it, in a worker thread. */
export async function drawOverTime({ stretch, range, size, ...recording }: OverTimeTask): Promise<Uint8Array> {
  const [from, to] = [stretch.from, stretch.to].map((step) => Math.round((step * recording.rateHz) / STEPS_PER_SECOND));
  const sides = Array.from({ length: recording.channels }, () => new Float32Array(to - from));
  const lastPage = Math.floor((to - 1) / PAGE_FRAMES);
  for await (const { page, samples } of pagesOf(recording, Math.floor(from / PAGE_FRAMES), lastPage)) {
    const at = page * PAGE_FRAMES - from;
    samples.forEach((side, c) => {
      const part = side.subarray(Math.max(0, -at), Math.max(0, Math.min(side.length, to - from - at)));
      sides[c].set(part, Math.max(0, at));
    });
  }
  return spectrumOverTime(sides, recording.rateHz, range, size);
}
