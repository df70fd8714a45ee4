import type { Work } from '../work';
import { OverlapsPanel } from './overlaps-panel';

/** Who is in whose way, and making room. */
export const overlapsWork: Work = { panel: { id: 'overlaps', name: 'Overlaps', digit: 6, Panel: OverlapsPanel } };
