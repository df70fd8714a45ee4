import { create } from 'zustand';

/** What the side shows, one at a time. */
export const SIDES = [
  { id: 'track', name: 'Track' },
  { id: 'overlaps', name: 'Overlaps' },
  { id: 'edge', name: 'Edge' },
  { id: 'suspects', name: 'Suspects' },
  { id: 'image', name: 'Image' },
  { id: 'compare', name: 'Compare' },
  { id: 'reuse', name: 'Reuse' },
  { id: 'company', name: 'Company' },
  { id: 'landmarks', name: 'Landmarks' },
] as const;
export type SideTab = (typeof SIDES)[number]['id'];

export const useSide = create<{ tab: SideTab; show: (tab: SideTab) => void }>((set) => ({
  tab: 'track',
  show: (tab) => set({ tab }),
}));
