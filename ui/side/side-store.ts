import { create } from 'zustand';

/** What the side shows, one at a time; the digit is its key. */
export const SIDES = [
  { id: 'track', name: 'Track', digit: 1 },
  { id: 'overlaps', name: 'Overlaps', digit: 6 },
  { id: 'edge', name: 'Edge', digit: 7 },
  { id: 'suspects', name: 'Suspects', digit: 8 },
  { id: 'image', name: 'Image', digit: 9 },
  { id: 'compare', name: 'Compare', digit: 2 },
  { id: 'reuse', name: 'Reuse', digit: 3 },
  { id: 'company', name: 'Company', digit: 4 },
  { id: 'landmarks', name: 'Landmarks', digit: 5 },
] as const;
export type SideTab = (typeof SIDES)[number]['id'];

export const useSide = create<{ tab: SideTab; show: (tab: SideTab) => void }>((set) => ({
  tab: 'track',
  show: (tab) => set({ tab }),
}));
