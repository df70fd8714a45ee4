import type { Work } from '../work';
import { ReusePanel } from './reuse-panel';

/** Saved equalizers, layouts, and matching one track to another. */
export const reuseWork: Work = { panel: { id: 'reuse', name: 'Reuse', digit: 3, Panel: ReusePanel } };
