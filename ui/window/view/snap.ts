import { SNAPS, snapped, type Snap } from '@/core/grid';
import { deskStore, type Desk } from '../desk/desk';
import { documentOf } from '../song/live-song';

/** What times stick to. Belongs to the person, as long as the song is open. */
export const useSnap = deskStore<{ snap: Snap | 'off'; setSnap: (snap: Snap | 'off') => void }>(() => (set) => ({
  snap: 'beat',
  setSnap: (snap) => set({ snap }),
}));

export const SNAP_NAMES: Record<Snap | 'off', string> = {
  off: 'nothing',
  bar: 'bars',
  beat: 'beats',
  half: 'half beats',
  third: 'thirds of a beat',
  quarter: 'quarters of a beat',
};
export const SNAP_CHOICES = ['off', ...SNAPS] as const;

/** A time as it sticks to the grid; the time itself where nothing is to stick, or there is no grid. @param isFree true while Shift is held */
export function snappedTime(desk: Desk, seconds: number, isFree = false): number {
  const { grid } = documentOf(desk);
  const { snap } = useSnap.of(desk);
  return grid && snap !== 'off' && !isFree ? Math.max(0, snapped(grid, seconds, snap)) : Math.max(0, seconds);
}

/** A step by a key from a time: to the next line of the grid, or a tenth of a second. @param isFine a hundredth of a second, whatever the grid */
export function steppedTime(desk: Desk, seconds: number, direction: 1 | -1, isFine: boolean): number {
  const { grid } = documentOf(desk);
  const { snap } = useSnap.of(desk);
  if (isFine || !grid || snap === 'off') return Math.max(0, seconds + direction * (isFine ? 0.01 : 0.1));
  const nearest = snapped(grid, seconds, snap);
  const isOnLine = Math.abs(nearest - seconds) < 1e-4;
  const isBeyond = direction === 1 ? nearest > seconds : nearest < seconds;
  return Math.max(0, isOnLine || !isBeyond ? snapped(grid, nearest, snap, direction) : nearest);
}
