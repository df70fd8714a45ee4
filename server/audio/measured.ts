import type { MeasuredRecording, RecordingAnalysis } from '@/core/measure';
import { singleton } from '../singleton';
import { runInWorker } from '../workers/pool';
import type { StoredRecording } from './measure-recording';
import { withWholeRecordings } from './mending';
import { readIfWhole, writeSealed } from './sealed';
import { bandLevelsPath, needAudio, analysisPath, recordingOf, waveformPath } from './store';

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

/** A recording as threads that measure it read it. @throws OrvidError `not-found` */
export const storedRecording = async (audioId: string): Promise<StoredRecording> =>
  recordingOf(await needAudio(audioId));

/** Puts what was measured of a recording into the store. */
export async function keepMeasured(audioId: string, measured: MeasuredRecording): Promise<void> {
  const { analysis, bandLevels, waveform } = measured;
  await writeSealed(bandLevelsPath(audioId), bandLevels);
  await writeSealed(waveformPath(audioId), new Uint8Array(waveform.buffer));
  await writeSealed(analysisPath(audioId), Buffer.from(JSON.stringify(analysis)));
}

async function measureAgain(audioId: string): Promise<void> {
  await needAudio(audioId);
  await once(audioId, async () =>
    keepMeasured(
      audioId,
      await withWholeRecordings([audioId], async () =>
        runInWorker<MeasuredRecording>('measure', await storedRecording(audioId)),
      ),
    ),
  );
}

/** What was measured, as a file of it holds it; measured where that is missing or damaged. @throws OrvidError `not-found`, `damaged` */
async function readMeasured(audioId: string, pathOf: (audioId: string) => string): Promise<Uint8Array> {
  const kept = await readIfWhole(pathOf(audioId));
  if (kept) return kept;
  await measureAgain(audioId);
  return (await readIfWhole(pathOf(audioId)))!;
}

const analysisIn = (file: Uint8Array) => JSON.parse(Buffer.from(file).toString('utf8')) as RecordingAnalysis;

/** The figures of a recording, where they are kept. */
export async function keptAnalysis(audioId: string): Promise<RecordingAnalysis | undefined> {
  const kept = await readIfWhole(analysisPath(audioId));
  return kept && analysisIn(kept);
}

/** The figures of a recording. @throws OrvidError `not-found`, `damaged` */
export const readAnalysis = async (audioId: string): Promise<RecordingAnalysis> =>
  analysisIn(await readMeasured(audioId, analysisPath));

/** The waveform of a recording, packed. @throws OrvidError `not-found`, `damaged` */
export const readWaveform = async (audioId: string): Promise<Int16Array> =>
  // A copy of its own begins where 16-bit integers may.
  new Int16Array(new Uint8Array(await readMeasured(audioId, waveformPath)).buffer);

/**
 * What a recording is like over time, bytes as `BandLevelsAnalyser` gives them.
 * @throws OrvidError `not-found`, `damaged`
 */
export const readBandLevels = (audioId: string): Promise<Uint8Array> => readMeasured(audioId, bandLevelsPath);
