import { latePanel } from '../../kit/late/late';
import type { Work } from '../work';

const OverlapsPanel = latePanel(async () => (await import('./overlaps-panel')).OverlapsPanel);

/** Who is in whose way, and making room. */
export const overlapsWork: Work = { panel: { id: 'overlaps', name: 'Overlaps', digit: 6, Panel: OverlapsPanel } };
