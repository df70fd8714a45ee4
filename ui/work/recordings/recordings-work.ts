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
      // The browser's own would open a recording in place of the page.
      key: { key: 'o', mod: true },
      inTitleMenu: true,
      run: () => uploadsOf(desk).choose(),
    },
  ],
};
