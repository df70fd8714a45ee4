import { compileSong, inLongerBlocks, songKernels, renderMix, type MixRange } from '@/core/engine';
import { SoundMeter, StereoSpectrum, TruePeakMeter, type SoundFigures, type StereoBand } from '@/core/measure';
import { hasEnds, partOf, withoutEnds } from '@/core/mix';
import type { Song } from '@/core/song';
import { FileSources } from './sources';
import type { PageFile } from '../audio/page-file';

export interface MeasureTask {
  song: Song;
  /** A track, a bus, or the master for the mix. */
  stripId: string;
  pageFiles: Record<string, PageFile>;
  range: MixRange;
  /** True to measure both sides by third-octaves too. */
  byRange: boolean;
}

/** A part of a mix as it sounds, measured by the engine that plays it. */
export interface PartFigures extends SoundFigures {
  /** How much lower its pass filters make the true peak, dB; below 0 where they raise it. */
  headroomFreedDb: number;
  /** By third-octaves; null where nobody asked for it: it takes as long as everything else. */
  stereo: StereoBand[] | null;
}

/** What sound is pushed into, and what it tells of all of it. */
interface Meter<T> {
  push(samples: readonly ArrayLike<number>[]): void;
  finish(): T;
}

/** Renders a song over a stretch into a meter. */
function measured<T>(song: Song, meter: Meter<T>, task: MeasureTask, report: (progress: number) => void): T {
  const sources = new FileSources(song, task.pageFiles);
  const { startFrame, endFrame } = task.range;
  try {
    const kernels = songKernels(song);
    for (const { left, right, frames, frame } of inLongerBlocks(
      renderMix(compileSong(song), sources.of, kernels, task.range),
    )) {
      meter.push([left.subarray(0, frames), right.subarray(0, frames)]);
      report((frame + frames - startFrame) / Math.max(1, endFrame - startFrame));
    }
    return meter.finish();
  } finally {
    sources.close();
  }
}

/** Measures a part of a mix, and the true peak once more without its pass filters where it has some. */
export async function measurePart(
  task: MeasureTask,
  report: (step: string, progress: number) => void,
): Promise<PartFigures> {
  const part = partOf(task.song, task.stripId);
  const share = hasEnds(part, task.song) ? 0.5 : 1;
  const sound = new SoundMeter(task.song.rateHz, 2);
  const stereo = task.byRange ? new StereoSpectrum(task.song.rateHz) : null;
  const both: Meter<Omit<PartFigures, 'headroomFreedDb'>> = {
    push: (samples) => {
      sound.push(samples);
      stereo?.push(samples);
    },
    finish: () => ({ ...sound.finish(), stereo: stereo?.finish() ?? null }),
  };
  const figures = measured(part, both, task, (progress) => report('measuring', share * progress));
  if (share === 1) return { ...figures, headroomFreedDb: 0 };
  const openPeakDb = measured(withoutEnds(part, task.song), new TruePeakMeter(2), task, (progress) =>
    report('measuring', share * (1 + progress)),
  );
  return { ...figures, headroomFreedDb: openPeakDb - figures.truePeakDbtp };
}
