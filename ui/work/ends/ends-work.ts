import { songOf } from '../../window/song/live-song';
import type { Work } from '../work';
import { CleanEndsDialog } from './clean-ends-dialog';
import { useCleaning } from './cleaning-store';
import { EdgePanel } from './edge-panel';

/** The ends of tracks: what their pass filters leave open. */
export const endsWork: Work = {
  panel: { id: 'edge', name: 'Edge', digit: 7, Panel: EdgePanel },
  Sheets: CleanEndsDialog,
  commands: (desk) => [
    {
      id: 'clean-ends',
      name: 'Clean all ends …',
      also: ['filter', 'high-pass', 'low-pass', 'cut', 'lows'],
      run: () => songOf(desk).tracks.length > 0 && useCleaning.of(desk).setOpen(true),
    },
  ],
};
