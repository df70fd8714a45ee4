import { open, writeFile } from 'node:fs/promises';
import { PAGE_FRAMES } from '@/core/engine';
import { ShortSpectraAnalyser } from '@/core/measure';

export interface ShortSpectraTask {
  /** The recording's pages. */
  pages: string;
  /** Where the bytes are written. */
  target: string;
  channels: number;
  rateHz: number;
  lengthFrames: number;
}

/** Measures a recording of the store over time: see {@link ShortSpectraAnalyser}. */
export async function measureShortSpectra(task: ShortSpectraTask): Promise<null> {
  const { channels, rateHz, lengthFrames } = task;
  const analyser = new ShortSpectraAnalyser(rateHz, channels);
  const file = await open(task.pages, 'r');
  try {
    for (let frame = 0; frame < lengthFrames; frame += PAGE_FRAMES) {
      const frames = Math.min(PAGE_FRAMES, lengthFrames - frame);
      const samples = new Float32Array(frames * channels);
      await file.read(new Uint8Array(samples.buffer), 0, samples.byteLength, frame * channels * 4);
      analyser.push(Array.from({ length: channels }, (_, c) => samples.subarray(c * frames, (c + 1) * frames)));
    }
  } finally {
    await file.close();
  }
  await writeFile(task.target, analyser.finish(), { flag: 'wx' });
  return null;
}
