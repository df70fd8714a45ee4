import { deskStore } from '../../window/desk/desk';

/** Whether the list of all ends is open. */
export const useCleaning = deskStore<{ isOpen: boolean; setOpen: (isOpen: boolean) => void }>(() => (set) => ({
  isOpen: false,
  setOpen: (isOpen) => set({ isOpen }),
}));
