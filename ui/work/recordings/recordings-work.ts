import type { Work } from '../work';
import { RecordingsSheets } from './recordings-sheets';
import { uploadsOf } from './upload';

/** Recordings that become tracks. */
export const recordingsWork: Work = {
  Sheets: RecordingsSheets,
  commands: (desk) => [
    {
      id: 'add-recordings',
      name: 'Add recordings …',
      also: ['import', 'open', 'files', 'audio'],
      inTitleMenu: true,
      run: () => uploadsOf(desk).choose(),
    },
  ],
};
