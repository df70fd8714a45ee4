export { DropArea } from './drop-area';
export { Tray } from './tray';
export { cancelJob, chooseFiles } from './upload';
