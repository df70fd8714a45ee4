import type { Work } from '../work';
import { RenderDialog } from './render-dialog';
import { packSong } from './pack-song';
import { useRendering } from './rendering-store';

/** What a song is handed on as: files of its sound, all of it in one file, sheets to read. */
export const renderWork: Work = {
  Sheets: RenderDialog,
  commands: (desk, go) => [
    { id: 'render', name: 'Render …', inTitleMenu: true, run: () => useRendering.of(desk).setOpen(true) },
    {
      id: 'pack',
      name: 'Pack the whole song into one file …',
      inTitleMenu: true,
      run: () => void packSong(desk),
    },
    {
      id: 'recall',
      name: 'Recall sheet …',
      inTitleMenu: true,
      run: () => go(`/songs/${desk.songId}/recall`),
    },
    {
      id: 'score',
      name: 'The score of the song …',
      inTitleMenu: true,
      run: () => go(`/songs/${desk.songId}/score`),
    },
  ],
};
