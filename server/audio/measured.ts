import { readFile, writeFile } from 'node:fs/promises';
import { OrvidError } from '@/core/errors';
import { ANALYSIS_VERSION, type MeasuredRecording, type RecordingAnalysis } from '@/core/measure';
import { singleton } from '../singleton';
import { runInWorker } from '../workers/pool';
import type { StoredRecording } from './measure-recording';
import {
  bandLevelsPath,
  discard,
  findAudio,
  keepAnalysis,
  keptAnalysis,
  pagesPath,
  settle,
  temporaryPath,
} from './store';

/** What was measured of the recordings in the store: once when they come in, and again where it is missing or of an older version. */
const running = () => singleton('measuring', () => new Map<string, Promise<unknown>>());

/** Runs a measurement once, however many ask for it at the same time. */
export async function once(name: string, measure: () => Promise<void>): Promise<void> {
  let run = running().get(name);
  if (!run) {
    run = measure().finally(() => running().delete(name));
    running().set(name, run);
  }
  await run;
}

/** @throws OrvidError `not-found` */
export async function storedRecording(audioId: string): Promise<StoredRecording> {
  const row = await findAudio(audioId);
  if (!row) throw new OrvidError('not-found', 'There is no recording of this name in the store.');
  const { channels, rateHz, lengthFrames } = row;
  return { pages: pagesPath(audioId), channels, rateHz, lengthFrames };
}

/** Puts what was measured of a recording into the store. */
export async function keepMeasured(audioId: string, { analysis, bandLevels }: MeasuredRecording): Promise<void> {
  const temporary = await temporaryPath();
  try {
    await writeFile(temporary, bandLevels, { flag: 'wx' });
    await settle(temporary, bandLevelsPath(audioId));
    await keepAnalysis(audioId, analysis);
  } finally {
    await discard(temporary);
  }
}

async function measureAgain(audioId: string): Promise<void> {
  const recording = await storedRecording(audioId);
  await once(audioId, async () => keepMeasured(audioId, await runInWorker<MeasuredRecording>('measure', recording)));
}

/** The figures of a recording. @throws OrvidError `not-found` */
export async function readAnalysis(audioId: string): Promise<RecordingAnalysis> {
  const kept = await keptAnalysis(audioId);
  if (kept?.version === ANALYSIS_VERSION) return kept;
  await measureAgain(audioId);
  return (await keptAnalysis(audioId))!;
}

/**
 * What a recording is like over time, bytes as `BandLevelsAnalyser` gives them.
 * @throws OrvidError `not-found`
 */
export async function readBandLevels(audioId: string): Promise<Uint8Array> {
  const kept = () => readFile(bandLevelsPath(audioId));
  try {
    return await kept();
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code !== 'ENOENT') throw thrown;
  }
  await measureAgain(audioId);
  return kept();
}
