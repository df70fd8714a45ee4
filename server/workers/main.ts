import { asOrvidError } from '@/core/errors';
import type { FoundGrid } from '@/core/grid';
import type { Alignment, MeasuredRecording } from '@/core/measure';
import type { FoundBleed } from '@/core/mix';
import type { Suspect } from '@/core/suspects';
import { fileHash } from '../audio/checksum';
import type { FrozenFacts } from '../audio/frozen';
import { findSuspects, measureRecording, type StoredRecording } from '../audio/measure-recording';
import { drawOverTime, type OverTimeTask } from '../audio/over-time';
import { packSong, type PackTask } from '../bundle/pack';
import { unpackSong, type Unpacked, type UnpackTask } from '../bundle/unpack';
import { decodeRecording, type DecodedRecording, type DecodeTask } from '../import/decode-recording';
import { makeProof, type ProofTask } from '../proof/make-proof';
import { freezeTrack, type FreezeTask } from '../render/freeze';
import { fitFile, type FitTask, type FittedFile } from '../render/fit-file';
import { measureAlignment, type AlignmentTask } from '../render/alignment';
import { measureBleed, type BleedTask } from '../render/bleed';
import { findSongGrid, type GridTask } from '../render/find-grid';
import { measurePart as measurePartOf, type MeasureTask, type PartFigures } from '../render/measure-part';
import { measureStrips as measureStripsOf, type MeasureStripsTask } from '../render/measure-strips';
import { renderSongFile, type RenderedFile, type RenderTask } from '../render/render-song';
import { measureStripLevels, type MeasuredStripLevels, type StripLevelsTask } from '../render/strip-levels';
import type { WithPort, WorkerResult } from './pool';

/** The entry of the server's worker threads: one exported function a task. */
async function answered<T>(
  port: WithPort<object>['port'],
  work: (report: (step: string, progress: number) => void) => Promise<T>,
): Promise<WorkerResult<T>> {
  let told = 0;
  try {
    const value = await work((step, progress) => {
      if (Date.now() - told < 50) return;
      told = Date.now();
      port.postMessage([step, progress]);
    });
    return { value };
  } catch (thrown) {
    return { error: asOrvidError(thrown).toJSON() };
  } finally {
    port.close();
  }
}

export function hash({ port, file }: WithPort<{ file: string }>): Promise<WorkerResult<string>> {
  return answered(port, () => fileHash(file));
}

export function decode({ port, ...task }: WithPort<DecodeTask>): Promise<WorkerResult<DecodedRecording>> {
  return answered(port, (report) => decodeRecording(task, report));
}

export function measure({ port, ...task }: WithPort<StoredRecording>): Promise<WorkerResult<MeasuredRecording>> {
  return answered(port, () => measureRecording(task));
}

export function suspects({ port, ...task }: WithPort<StoredRecording>): Promise<WorkerResult<Suspect[]>> {
  return answered(port, () => findSuspects(task));
}

export function overTime({ port, ...task }: WithPort<OverTimeTask>): Promise<WorkerResult<Uint8Array>> {
  return answered(port, () => drawOverTime(task));
}

export function measurePart({ port, ...task }: WithPort<MeasureTask>): Promise<WorkerResult<PartFigures>> {
  return answered(port, (report) => measurePartOf(task, report));
}

export function measureStrips({
  port,
  ...task
}: WithPort<MeasureStripsTask>): Promise<WorkerResult<Record<string, PartFigures>>> {
  return answered(port, (report) => measureStripsOf(task, report));
}

export function stripLevels({ port, ...task }: WithPort<StripLevelsTask>): Promise<WorkerResult<MeasuredStripLevels>> {
  return answered(port, async () => measureStripLevels(task));
}

export function freeze({ port, ...task }: WithPort<FreezeTask>): Promise<WorkerResult<FrozenFacts>> {
  return answered(port, (report) => freezeTrack(task, report));
}

export function alignment({ port, ...task }: WithPort<AlignmentTask>): Promise<WorkerResult<Alignment[]>> {
  return answered(port, async () => measureAlignment(task));
}

export function bleed({ port, ...task }: WithPort<BleedTask>): Promise<WorkerResult<FoundBleed | null>> {
  return answered(port, async () => measureBleed(task));
}

export function grid({ port, ...task }: WithPort<GridTask>): Promise<WorkerResult<FoundGrid | null>> {
  return answered(port, async () => findSongGrid(task));
}

export function render({ port, ...task }: WithPort<RenderTask>): Promise<WorkerResult<RenderedFile>> {
  return answered(port, (report) => renderSongFile(task, report));
}

export function pack({ port, ...task }: WithPort<PackTask>): Promise<WorkerResult<{ bytes: number }>> {
  return answered(port, (report) => packSong(task, report));
}

export function unpack({ port, ...task }: WithPort<UnpackTask>): Promise<WorkerResult<Unpacked>> {
  return answered(port, (report) => unpackSong(task, report));
}

export function proof({ port, ...task }: WithPort<ProofTask>): Promise<WorkerResult<void>> {
  return answered(port, (report) => makeProof(task, report));
}

export function fit({ port, ...task }: WithPort<FitTask>): Promise<WorkerResult<FittedFile>> {
  return answered(port, () => fitFile(task));
}
