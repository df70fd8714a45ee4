import { create } from 'zustand';
import { remember, remembered } from '../../kit/storage/browser-storage';

/** How the height is shared between the Register and the bench; kept in the browser. */
const KEY = 'orvid-bench-share';
export const BENCH_SHARE = { min: 0.18, max: 0.82, start: 0.45 } as const;

interface LayoutStore {
  /** Share of the height that the bench takes. */
  benchShare: number;
  setBenchShare: (share: number) => void;
  restore: () => void;
}

const clamp = (share: number) => Math.min(BENCH_SHARE.max, Math.max(BENCH_SHARE.min, share));

export const useLayout = create<LayoutStore>((set) => ({
  benchShare: BENCH_SHARE.start,
  setBenchShare: (share) => {
    remember(KEY, String(clamp(share)));
    set({ benchShare: clamp(share) });
  },
  restore: () => {
    const stored = Number(remembered(KEY));
    if (stored > 0) set({ benchShare: clamp(stored) });
  },
}));
