import { create } from 'zustand';
import { remember, remembered } from '../storage/browser-storage';

/** Eyes off: no curves, ridges and figures of the sound. It belongs to the person, not to a song; kept in the browser. */
const KEY = 'orvid-eyes-off';

interface EyesOff {
  isOff: boolean;
  set: (isOff: boolean) => void;
  restore: () => void;
}

export const useEyesOff = create<EyesOff>((set) => ({
  isOff: false,
  set: (isOff) => {
    remember(KEY, String(isOff));
    set({ isOff });
  },
  restore: () => set({ isOff: remembered(KEY) === 'true' }),
}));
