import { deskStore } from '../../window/desk/desk';
import type { BandChannel } from '@/core/song';

/** What the bench draws of the equalizer. */
export type EqualizerCurve = 'level' | 'phase' | 'wrapped-phase' | 'delay';
/** Or of the strip: how its sides stand to each other. */
export type BenchCurve = EqualizerCurve | 'image';

export const CURVE_NAMES: readonly { id: BenchCurve; name: string }[] = [
  { id: 'level', name: 'Level' },
  { id: 'phase', name: 'Phase' },
  { id: 'wrapped-phase', name: 'Phase within ±180°' },
  { id: 'delay', name: 'Group delay' },
  { id: 'image', name: 'Correlation, sides' },
];

export const PATH_NAMES: readonly { id: BandChannel; name: string }[] = [
  { id: 'stereo', name: 'All paths' },
  { id: 'mid', name: 'Mid' },
  { id: 'side', name: 'Side' },
  { id: 'left', name: 'Left' },
  { id: 'right', name: 'Right' },
];

/** How this window looks at the bench; nothing of it is part of the song. */
export const useBenchView = deskStore<{ curve: BenchCurve; setCurve: (curve: BenchCurve) => void }>(() => (set) => ({
  curve: 'level',
  setCurve: (curve) => set({ curve }),
}));
