export { EdgePanel } from './edge-panel';
