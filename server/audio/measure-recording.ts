import { open } from 'node:fs/promises';
import { PAGE_FRAMES, unpackSamples } from '@/core/engine';
import type { Suspect } from '@/core/suspects';
import { SuspectFinder } from '@/core/suspects/finder';
import { RecordingAnalyser, type MeasuredRecording } from '@/core/measure';
import { pageExtent, readPageBytes, unopenable, type PageFile } from './page-file';

/** A recording of the store, for a worker thread. */
export interface StoredRecording {
  pages: PageFile;
  channels: number;
  rateHz: number;
  lengthFrames: number;
}

/**
 * The samples of a recording of the store, a page at a time, one array per channel.
 * @param first the number of a page; the default is the recording's first
 * @param last likewise
 * @throws OrvidError `damaged`
 */
export async function* pagesOf(
  { pages, channels, lengthFrames }: StoredRecording,
  first = 0,
  last = Infinity,
): AsyncGenerator<{ page: number; samples: Float32Array[] }> {
  const file = await open(pages.path, 'r').catch((thrown: unknown) => {
    throw unopenable(pages, thrown);
  });
  try {
    for (let page = first; page <= last && page * PAGE_FRAMES < lengthFrames; page++) {
      const { frames, ...extent } = pageExtent(page, channels, lengthFrames, pages.bits);
      const bytes = await readPageBytes(file, pages, page, extent);
      const samples = new Float32Array(frames * channels);
      unpackSamples(bytes, pages.bits, samples);
      const sides = Array.from({ length: channels }, (_, c) => samples.subarray(c * frames, (c + 1) * frames));
      yield { page, samples: sides };
    }
  } finally {
    await file.close();
  }
}

/** Measures a recording of the store as it is measured when it comes in. */
export async function measureRecording(recording: StoredRecording): Promise<MeasuredRecording> {
  const analyser = new RecordingAnalyser(recording.rateHz, recording.channels);
  for await (const { samples } of pagesOf(recording)) analyser.push(samples);
  return analyser.finish();
}

/** Looks through a recording of the store for what may be wrong with it. */
export async function findSuspects(recording: StoredRecording): Promise<Suspect[]> {
  const finder = new SuspectFinder(recording.rateHz, recording.lengthFrames);
  for await (const { samples } of pagesOf(recording)) finder.push(samples);
  return finder.finish();
}
