import { latePanel } from '../../kit/late/late';
import type { Work } from '../work';
import {
  closePassage,
  markPassage,
  passageOfBarBefore,
  passageOfLoop,
  passageOfPart,
  pastePassage,
  togglePassage,
  toggleRecording,
} from './passage-edits';

const PassagesPanel = latePanel(async () => (await import('./passages-panel')).PassagesPanel);

/** Settings that change over the song, and where its bars and parts lie. */
export const passagesWork: Work = {
  panel: { id: 'passages', name: 'Passages', digit: 'p', Panel: PassagesPanel },
  commands: (desk) => [
    {
      id: 'open-passage',
      name: 'Open the passage here, or close it',
      key: { key: 'd' },
      run: () => togglePassage(desk),
    },
    {
      id: 'mark-passage',
      name: 'Mark a passage: its beginning, then its end',
      key: { key: 'i' },
      run: () => markPassage(desk),
    },
    { id: 'close-passage', name: 'Close the open passage', key: { key: 'Escape' }, run: () => closePassage(desk) },
    { id: 'passage-of-loop', name: 'New passage over the loop', run: () => passageOfLoop(desk) },
    { id: 'passage-of-part', name: 'New passage over this part of the song', run: () => passageOfPart(desk) },
    { id: 'passage-before', name: 'New passage over the bar before this part', run: () => passageOfBarBefore(desk) },
    { id: 'paste-passage', name: 'Paste the copied passage at the playhead', run: () => pastePassage(desk) },
    {
      id: 'record-passage',
      name: 'Record what is moved in the open passage, or stop',
      key: { key: 'r' },
      run: () => toggleRecording(desk),
    },
  ],
};
