import { deskStore } from '../../window/desk/desk';

/** Which panel the side shows. */
export const useSide = deskStore<{ tab: string; show: (tab: string) => void }>(() => (set) => ({
  tab: 'track',
  show: (tab) => set({ tab }),
}));
