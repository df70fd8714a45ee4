import { latePanel } from '../../kit/late/late';
import type { Work } from '../work';

const ImagePanel = latePanel(async () => (await import('./image-panel')).ImagePanel);

/** The stereo picture and the standard meters. */
export const imageWork: Work = { panel: { id: 'image', name: 'Image', digit: 9, Panel: ImagePanel } };
