import { late, latePanel } from '../../kit/late/late';
import { songOf } from '../../window/song/live-song';
import type { Work } from '../work';
import { useCleaning } from './cleaning-store';

const EdgePanel = latePanel(async () => (await import('./edge-panel')).EdgePanel);
const CleanEndsDialog = late(async () => (await import('./clean-ends-dialog')).CleanEndsDialog);

/** The ends of tracks: what their pass filters leave open. */
export const endsWork: Work = {
  panel: { id: 'edge', name: 'Edge', digit: 7, Panel: EdgePanel },
  LateSheets: CleanEndsDialog,
  commands: (desk) => [
    {
      id: 'clean-ends',
      name: 'Clean all ends …',
      also: ['filter', 'high-pass', 'low-pass', 'cut', 'lows'],
      run: () => songOf(desk).tracks.length > 0 && useCleaning.of(desk).setOpen(true),
    },
  ],
};
