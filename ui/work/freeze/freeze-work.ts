import { late } from '../../kit/late/late';
import { freezeTracks, useFrozen } from '../../window/sound/frozen';
import type { Work } from '../work';
import { toggleFrozen, useFreezeSheet } from './freeze-store';

const FreezeSheet = late(async () => (await import('./freeze-sheet')).FreezeSheet);

/** Tracks that are played as renders of their chains, where a machine cannot run all of them. */
export const freezeWork: Work = {
  LateSheets: FreezeSheet,
  commands: (desk) => [
    {
      id: 'freeze',
      name: 'Freeze the track, or play it live again',
      also: ['thaw', 'render', 'processor', 'load'],
      run: () => toggleFrozen(desk),
    },
    {
      id: 'freeze-tracks',
      name: 'Freeze tracks …',
      also: ['thaw', 'render', 'processor', 'load', 'engine'],
      run: () => useFreezeSheet.of(desk).setOpen(true),
    },
    {
      id: 'thaw-all',
      name: 'Play every frozen track live again',
      also: ['thaw', 'unfreeze'],
      run: () => freezeTracks(desk, useFrozen.of(desk).chosen, false),
    },
  ],
};
