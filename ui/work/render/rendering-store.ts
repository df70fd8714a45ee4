import { plainOrder, type FinishedFile, type RenderOrder } from '@/core/renders';
import { deskStore } from '../../window/desk/desk';

interface RenderingStore {
  isOpen: boolean;
  setOpen: (isOpen: boolean) => void;
  /** What is ordered, but for the stretches, which are chosen by their names. */
  order: RenderOrder;
  change: (changes: Partial<RenderOrder>) => void;
  /** Chosen stretches: `loop`, or `part` and its place; none is the whole song. */
  spans: readonly string[];
  setSpans: (spans: readonly string[]) => void;
  /** What was made of the song, the latest first; null until it is known. */
  finished: readonly FinishedFile[] | null;
  setFinished: (finished: readonly FinishedFile[]) => void;
}

/** The render sheet: whether it is open, what it orders, what was made. */
export const useRendering = deskStore<RenderingStore>(() => (set, get) => ({
  isOpen: false,
  setOpen: (isOpen) => set({ isOpen }),
  order: plainOrder,
  change: (changes) => set({ order: { ...get().order, ...changes } }),
  spans: [],
  setSpans: (spans) => set({ spans }),
  finished: null,
  setFinished: (finished) => set({ finished }),
}));
