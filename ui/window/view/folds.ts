import { deskStore } from '../desk/desk';

/** Which groups are folded in this window. */
interface Folds {
  folded: readonly string[];
  toggle: (busId: string) => void;
}

export const useFolds = deskStore<Folds>(() => (set, get) => ({
  folded: [],
  toggle: (busId) => {
    const { folded } = get();
    set({ folded: folded.includes(busId) ? folded.filter((id) => id !== busId) : [...folded, busId] });
  },
}));
