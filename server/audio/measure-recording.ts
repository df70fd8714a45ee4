import { open } from 'node:fs/promises';
import { PAGE_FRAMES } from '@/core/engine';
import { SuspectFinder, type Suspect } from '@/core/suspects';
import { RecordingAnalyser, type MeasuredRecording } from '@/core/measure';

/** A recording of the store, for a worker thread. */
export interface StoredRecording {
  /** File of its pages. */
  pages: string;
  channels: number;
  rateHz: number;
  lengthFrames: number;
}

/** The samples of a recording of the store, a page at a time, one array per channel. */
export async function* pagesOf({ pages, channels, lengthFrames }: StoredRecording): AsyncGenerator<Float32Array[]> {
  const file = await open(pages, 'r');
  try {
    for (let frame = 0; frame < lengthFrames; frame += PAGE_FRAMES) {
      const frames = Math.min(PAGE_FRAMES, lengthFrames - frame);
      const samples = new Float32Array(frames * channels);
      await file.read(new Uint8Array(samples.buffer), 0, samples.byteLength, frame * channels * 4);
      yield Array.from({ length: channels }, (_, c) => samples.subarray(c * frames, (c + 1) * frames));
    }
  } finally {
    await file.close();
  }
}

/** Measures a recording of the store as it is measured when it comes in. */
export async function measureRecording(recording: StoredRecording): Promise<MeasuredRecording> {
  const analyser = new RecordingAnalyser(recording.rateHz, recording.channels);
  for await (const samples of pagesOf(recording)) analyser.push(samples);
  return analyser.finish();
}

/** Looks through a recording of the store for what may be wrong with it. */
export async function findSuspects(recording: StoredRecording): Promise<Suspect[]> {
  const finder = new SuspectFinder(recording.rateHz);
  for await (const samples of pagesOf(recording)) finder.push(samples);
  return finder.finish();
}
