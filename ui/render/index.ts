export { RenderDialog } from './render-dialog';
