import { deskStore } from '../../window/desk/desk';

/** Whether the render sheet is open. */
export const useRendering = deskStore<{ isOpen: boolean; setOpen: (isOpen: boolean) => void }>(() => (set) => ({
  isOpen: false,
  setOpen: (isOpen) => set({ isOpen }),
}));
