import { compileSong, inLongerBlocks, renderMix, songKernels, StripEars } from '@/core/engine';
import { hasEnds, partOf, withoutEnds } from '@/core/mix';
import { MASTER_ID, type Song } from '@/core/song';
import type { MeasureTask, PartFigures } from './measure-part';
import { FileSources } from './sources';
import { StripMeters, type Measured, type StripFigures } from './strip-meters';
import { threadedGroups, threadsFor } from './threaded-groups';

export interface MeasureStripsTask extends Pick<MeasureTask, 'song' | 'pageFiles' | 'range'> {
  /** Of `heardInMix`, and the master for the mix. */
  stripIds: string[];
}

/** Renders a song once, and measures strips of it as they leave it, and the mix. */
function heardFigures<K extends Measured>(
  song: Song,
  { pageFiles, range, stripIds }: Omit<MeasureStripsTask, 'song'>,
  measured: K,
  report: (progress: number) => void,
  threads: number,
): Record<string, StripFigures[K]> {
  const sources = new FileSources(song, pageFiles);
  const kernels = songKernels(song);
  const heard = { stripIds, measured };
  const meters = new StripMeters(heard, song.rateHz);
  const ears = new StripEars(meters, range);
  const others = threads > 0 ? threadedGroups({ song, kernels, pageFiles, range, heard }, threads) : undefined;
  const hasMix = stripIds.includes(MASTER_ID);
  try {
    for (const { left, right, frames, frame } of inLongerBlocks(
      renderMix(compileSong(song), sources.of, kernels, range, ears, others),
    )) {
      if (hasMix) meters.hear(MASTER_ID, left.subarray(0, frames), right.subarray(0, frames));
      report((frame + frames - range.startFrame) / Math.max(1, range.endFrame - range.startFrame));
    }
    return { ...others?.figures<K>(), ...meters.finish<K>() };
  } finally {
    others?.end();
    sources.close();
  }
}

/**
 * Measures strips of a song that sound in its mix as they do by themselves, and the mix, in one render; in a second one the true peaks of those without
 * their pass filters that have some.
 * @param threads how many run the tracks; 0 is this one
 */
export async function measureStrips(
  task: MeasureStripsTask,
  report: (step: string, progress: number) => void,
  threads = threadsFor(task.song, task.range),
): Promise<Record<string, PartFigures>> {
  const { song, stripIds } = task;
  const withEnds = stripIds.filter((id) => hasEnds(partOf(song, id), song));
  const share = withEnds.length > 0 ? 0.5 : 1;
  const figures = heardFigures(song, task, 'sound', (progress) => report('measuring', share * progress), threads);
  const openPeaks =
    withEnds.length > 0
      ? heardFigures(
          withoutEnds(song),
          { ...task, stripIds: withEnds },
          'peak',
          (progress) => report('measuring', share * (1 + progress)),
          threads,
        )
      : {};
  return Object.fromEntries(
    stripIds.map((id) => {
      const sound = figures[id];
      const headroomFreedDb = id in openPeaks ? openPeaks[id] - sound.truePeakDbtp : 0;
      return [id, { ...sound, stereo: null, headroomFreedDb }];
    }),
  );
}
