import type { Work } from '../work';
import { SuspectsPanel } from './suspects-panel';

/** What may be wrong with a recording. */
export const suspectsWork: Work = { panel: { id: 'suspects', name: 'Suspects', digit: 8, Panel: SuspectsPanel } };
