import { plainProof, type ProofOrder } from '@/core/proof';
import { deskStore } from '../../window/desk/desk';

/** The sheet that makes the page for the client, and what it orders. */
export const useProof = deskStore<{
  isOpen: boolean;
  setOpen: (isOpen: boolean) => void;
  order: ProofOrder;
  change: (changes: Partial<ProofOrder>) => void;
}>(() => (set, get) => ({
  isOpen: false,
  setOpen: (isOpen) => set({ isOpen }),
  order: plainProof,
  change: (changes) => set({ order: { ...get().order, ...changes } }),
}));
