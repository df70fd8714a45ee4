import { latePanel } from '../../kit/late/late';
import { runCommand } from '../../window/commands/command-store';
import type { Work } from '../work';
import { lookThroughAll } from './suspects-store';

const SuspectsPanel = latePanel(async () => (await import('./suspects-panel')).SuspectsPanel);

/** What may be wrong with a recording. */
export const suspectsWork: Work = {
  panel: { id: 'suspects', name: 'Suspects', digit: 8, Panel: SuspectsPanel },
  commands: (desk) => [
    {
      id: 'look-through-all',
      name: 'Look through all tracks for suspects',
      also: ['resonance', 'hum', 'noise', 'faults', 'problems'],
      run: () => {
        runCommand(desk, 'side-suspects');
        void lookThroughAll(desk);
      },
    },
  ],
};
