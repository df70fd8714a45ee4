import { create } from 'zustand';

/** Whether the list of all ends is open. */
export const useCleaning = create<{ isOpen: boolean; setOpen: (isOpen: boolean) => void }>((set) => ({
  isOpen: false,
  setOpen: (isOpen) => set({ isOpen }),
}));
