import { latePanel } from '../../kit/late/late';
import type { Work } from '../work';
import { goBack, leaveMoment } from './history-store';
import { tellSaved } from './tell-saved';

const HistoryPanel = latePanel(async () => (await import('./history-panel')).HistoryPanel);

/** The journal in words: any moment of it is seen, heard and gone back to. */
export const historyWork: Work = {
  panel: { id: 'history', name: 'History', digit: 'h', Panel: HistoryPanel },
  commands: (desk) => [
    {
      id: 'tell-saved',
      name: 'Say whether everything is saved',
      also: ['save', 'keep', 'store'],
      key: { key: 's', mod: true },
      run: () => void tellSaved(desk),
    },
    { id: 'leave-moment', name: 'Return from the past to the song as it is', run: () => leaveMoment(desk) },
    { id: 'go-back', name: 'Make the song what it was at the moment that is shown', run: () => goBack(desk) },
  ],
};
