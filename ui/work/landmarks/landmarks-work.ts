import { latePanel } from '../../kit/late/late';
import type { Work } from '../work';
import { useLandmarks } from './landmarks-store';

const LandmarksPanel = latePanel(async () => (await import('./landmarks-panel')).LandmarksPanel);

/** What usually lies where. */
export const landmarksWork: Work = {
  panel: { id: 'landmarks', name: 'Landmarks', digit: 5, Panel: LandmarksPanel },
  commands: () => [
    {
      id: 'landmarks',
      name: 'Landmarks on the ruler, on or off',
      run: () => useLandmarks.getState().show(!useLandmarks.getState().isShown),
    },
  ],
};
