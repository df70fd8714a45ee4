import type { PeaksLevel } from '@/core/measure';
import { deskStore } from '../desk/desk';
import { onServerBack } from '../outbox/link';
import { waveformsUrl } from '../server/measured-urls';
import { request } from '../server/request';

/** Waveforms of all recordings over one stretch, by recording: finer than those of the whole song. */
interface WaveformsStore {
  byAudio: Readonly<Record<string, PeaksLevel>>;
  /** The stretch that they cover, frames. */
  from: number;
  to: number;
  /** Asks for what a picture of the frames `from` to `to` needs, if it is not here. */
  need: (from: number, to: number) => void;
}

/** What is asked for is twice as wide as what is looked at, so that it may be scrolled, in so many entries. */
const ENTRIES = 1600;
/** While the view is zoomed or scrolled nothing is asked for. */
const REST_MS = 120;

export const useWaveforms = deskStore<WaveformsStore>((desk) => (set, get) => {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let newest = 0;
  /** What could not be had. */
  let missed: readonly [from: number, to: number] | null = null;
  desk.onEnd(() => clearTimeout(timer));
  const ask = async (from: number, to: number) => {
    const number = ++newest;
    missed = null;
    try {
      const byAudio = await request<WaveformsStore['byAudio']>('GET', waveformsUrl(desk.songId, from, to, ENTRIES));
      if (number === newest) set({ byAudio, from, to });
    } catch {
      // The coarse picture stays until the server is back, or one looks elsewhere.
      if (number === newest) missed = [from, to];
    }
  };
  onServerBack(desk, () => missed && void ask(...missed));
  return {
    byAudio: {},
    from: 0,
    to: 0,
    need: (from, to) => {
      clearTimeout(timer);
      missed = null;
      const width = to - from;
      const { from: hadFrom, to: hadTo } = get();
      // As good: it covers the stretch, and was not asked for one that is much wider.
      if (hadFrom <= from && hadTo >= to && hadTo - hadFrom <= 4 * width) return;
      timer = setTimeout(() => void ask(Math.max(0, Math.floor(from - width / 2)), Math.ceil(to + width / 2)), REST_MS);
    },
  };
});
