export { ImagePanel } from './image-panel';
