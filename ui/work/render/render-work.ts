import { late } from '../../kit/late/late';
import type { Work } from '../work';
import { packSong } from './pack-song';
import { useRendering } from './rendering-store';

const RenderDialog = late(async () => (await import('./render-dialog')).RenderDialog);

/** What a song is handed on as: files of its sound, all of it in one file, sheets to read. */
export const renderWork: Work = {
  LateSheets: RenderDialog,
  commands: (desk, go) => [
    {
      id: 'render',
      name: 'Render …',
      also: ['export', 'bounce', 'mixdown', 'stems', 'wav', 'flac', 'mp3', 'file'],
      inTitleMenu: true,
      run: () => useRendering.of(desk).setOpen(true),
    },
    {
      id: 'pack',
      name: 'Pack the whole song into one file …',
      also: ['bundle', 'zip', 'archive', 'export', 'copy', 'backup'],
      inTitleMenu: true,
      run: () => void packSong(desk),
    },
    {
      id: 'recall',
      name: 'Recall sheet …',
      also: ['settings', 'notes', 'documentation', 'print', 'export'],
      inTitleMenu: true,
      run: () => go(`/songs/${desk.songId}/recall`),
    },
    {
      id: 'score',
      name: 'The score of the song …',
      also: ['table', 'overview', 'print'],
      inTitleMenu: true,
      run: () => go(`/songs/${desk.songId}/score`),
    },
  ],
};
