import type { Chain, Track } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { chosenStrips } from '../../window/song/selection';
import { frozenState, freezeTracks, useFrozen } from '../../window/sound/frozen';

/** Whether the list of tracks to freeze is open. */
export const useFreezeSheet = deskStore<{ isOpen: boolean; setOpen: (isOpen: boolean) => void }>(() => (set) => ({
  isOpen: false,
  setOpen: (isOpen) => set({ isOpen }),
}));

/** Freezes the chosen tracks, or thaws them where all of them are frozen. */
export function toggleFrozen(desk: Desk): void {
  const ids = chosenStrips(desk).flatMap((strip) => ('audioId' in strip ? [strip.id] : []));
  if (ids.length === 0) {
    tell(desk, 'Only tracks can be frozen: choose one first.');
    return;
  }
  const store = useFrozen.of(desk);
  freezeTracks(
    desk,
    ids,
    ids.some((id) => frozenState(store, id) === 'live'),
  );
}

/**
 * About what a processor costs on a stereo track, as a share of the audio thread. Source: `npm run bench -- chains` and `-- engine`, on two cores of a virtual machine; what counts is which
 * tracks cost most.
 */
const COSTS: Record<Exclude<Chain[number]['kind'], 'equalizer'>, number> = {
  gate: 0.003,
  compressor: 0.003,
  clipper: 0.14,
  ducker: 0.012,
  reverb: 0.018,
  echo: 0.0025,
  limiter: 0.011,
};
const BAND = 0.0001;
const GIVING_BAND = 0.005;
/** 23 times what a track of four bells takes, in one run of both. */
const LINEAR_PHASE = 0.024;

/** About what running a track's chain costs, as a share of the audio thread. */
export function chainCost({ chain, channels }: Pick<Track, 'chain' | 'channels'>): number {
  const costs = chain
    .filter(({ enabled }) => enabled)
    .map((processor) => {
      if (processor.kind !== 'equalizer') return COSTS[processor.kind];
      const bands = processor.bands.filter(({ enabled }) => enabled);
      const each = bands.reduce((sum, { givesWay }) => sum + (givesWay ? GIVING_BAND : BAND), 0);
      return each + (processor.phase === 'linear' && bands.length > 0 ? LINEAR_PHASE : 0);
    });
  return (channels / 2) * costs.reduce((sum, cost) => sum + cost, 0);
}
