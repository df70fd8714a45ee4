import { useSongStore } from '../../window/song/song-store';
import type { Work } from '../work';

/** Steps back and forth. */
export const undoWork: Work = {
  commands: (desk) => [
    {
      id: 'undo',
      name: 'Undo',
      key: { key: 'z', mod: true },
      inTitleMenu: true,
      run: () => useSongStore.of(desk).undo(),
    },
    {
      id: 'redo',
      name: 'Redo',
      key: { key: 'z', mod: true, shift: true },
      otherKey: { key: 'y', mod: true },
      inTitleMenu: true,
      run: () => useSongStore.of(desk).redo(),
    },
  ],
};
