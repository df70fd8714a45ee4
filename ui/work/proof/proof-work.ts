import { late } from '../../kit/late/late';
import type { Work } from '../work';
import { useProof } from './proof-store';

const ProofDialog = late(async () => (await import('./proof-dialog')).ProofDialog);

/** One page for the client: before and after, to be opened anywhere. */
export const proofWork: Work = {
  LateSheets: ProofDialog,
  commands: (desk) => [
    {
      id: 'proof',
      name: 'Before and after for the client …',
      also: ['proof', 'demonstration', 'page', 'html', 'send'],
      inTitleMenu: true,
      run: () => useProof.of(desk).setOpen(true),
    },
  ],
};
