import { latePanel } from '../../kit/late/late';
import type { Work } from '../work';

const ReusePanel = latePanel(async () => (await import('./reuse-panel')).ReusePanel);

/** Saved equalizers, layouts, and matching one track to another. */
export const reuseWork: Work = { panel: { id: 'reuse', name: 'Reuse', digit: 3, Panel: ReusePanel } };
