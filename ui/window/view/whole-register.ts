import { deskStore } from '../desk/desk';

interface WholeRegister {
  /** True while every lane of the song is in sight at once, as low as that takes, in place of the bench. */
  isWhole: boolean;
  toggle: () => void;
}

export const useWholeRegister = deskStore<WholeRegister>(() => (set, get) => ({
  isWhole: false,
  toggle: () => set({ isWhole: !get().isWhole }),
}));
