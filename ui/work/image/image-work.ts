import type { Work } from '../work';
import { ImagePanel } from './image-panel';

/** The stereo picture and the standard meters. */
export const imageWork: Work = { panel: { id: 'image', name: 'Image', digit: 9, Panel: ImagePanel } };
