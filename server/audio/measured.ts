import {
  ANALYSIS_VERSION,
  overviewOf,
  packWaveform,
  type MeasuredRecording,
  type RecordingAnalysis,
} from '@/core/measure';
import { singleton } from '../singleton';
import { runInWorker } from '../workers/pool';
import type { StoredRecording } from './measure-recording';
import { withWholeRecordings } from './mending';
import { readIfWhole, writeSealed } from './sealed';
import {
  bandLevelsPath,
  keepAnalysis,
  keptAnalysis,
  needAudio,
  overviewPath,
  recordingOf,
  waveformPath,
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

/** A recording as threads that measure it read it. @throws OrvidError `not-found` */
export const storedRecording = async (audioId: string): Promise<StoredRecording> =>
  recordingOf(await needAudio(audioId));

/** Puts what was measured of a recording into the store. */
export async function keepMeasured(audioId: string, { analysis, bandLevels }: MeasuredRecording): Promise<void> {
  await writeSealed(bandLevelsPath(audioId), bandLevels);
  await keepOverview(audioId, analysis);
  await keepWaveform(audioId, analysis);
  await keepAnalysis(audioId, analysis);
}

const keepWaveform = (audioId: string, { peaks }: RecordingAnalysis) =>
  writeSealed(waveformPath(audioId), new Uint8Array(packWaveform(peaks).buffer));

const keepOverview = (audioId: string, analysis: RecordingAnalysis) =>
  writeSealed(overviewPath(audioId), Buffer.from(JSON.stringify(overviewOf(analysis))));

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

/** The figures of a recording. @throws OrvidError `not-found`, `damaged` */
export async function readAnalysis(audioId: string): Promise<RecordingAnalysis> {
  const kept = await keptAnalysis(audioId);
  if (kept?.version === ANALYSIS_VERSION) return kept;
  await measureAgain(audioId);
  return (await keptAnalysis(audioId))!;
}

/** What is seen of a recording at first sight, where it is kept. */
export async function keptOverview(audioId: string): Promise<RecordingAnalysis | undefined> {
  const kept = await readIfWhole(overviewPath(audioId));
  return kept && (JSON.parse(Buffer.from(kept).toString('utf8')) as RecordingAnalysis);
}

/** What is seen of a recording at first sight. @throws OrvidError `not-found`, `damaged` */
export async function readOverview(audioId: string): Promise<RecordingAnalysis> {
  const kept = await keptOverview(audioId);
  if (kept) return kept;
  const analysis = await readAnalysis(audioId);
  await keepOverview(audioId, analysis);
  return overviewOf(analysis);
}

/** The waveform of a recording, packed, where it is kept. */
async function keptWaveform(audioId: string): Promise<Int16Array | undefined> {
  const kept = await readIfWhole(waveformPath(audioId));
  // A copy of its own begins where 16-bit integers may.
  return kept && new Int16Array(new Uint8Array(kept).buffer);
}

/** The waveform of a recording, packed. @throws OrvidError `not-found`, `damaged` */
export async function readWaveform(audioId: string): Promise<Int16Array> {
  const kept = await keptWaveform(audioId);
  if (kept) return kept;
  await keepWaveform(audioId, await readAnalysis(audioId));
  return (await keptWaveform(audioId))!;
}

/**
 * What a recording is like over time, bytes as `BandLevelsAnalyser` gives them.
 * @throws OrvidError `not-found`, `damaged`
 */
export async function readBandLevels(audioId: string): Promise<Uint8Array> {
  const kept = await readIfWhole(bandLevelsPath(audioId));
  if (kept) return kept;
  await measureAgain(audioId);
  return (await readIfWhole(bandLevelsPath(audioId)))!;
}
