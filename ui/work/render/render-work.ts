import type { Work } from '../work';
import { RenderDialog } from './render-dialog';
import { useRendering } from './rendering-store';

/** The mix as a file, and the score of the song. */
export const renderWork: Work = {
  Sheets: RenderDialog,
  commands: (desk, go) => [
    { id: 'render', name: 'Render …', inTitleMenu: true, run: () => useRendering.of(desk).setOpen(true) },
    {
      id: 'score',
      name: 'The score of the song …',
      inTitleMenu: true,
      run: () => go(`/songs/${desk.songId}/score`),
    },
  ],
};
