export { StripPanel } from './strip-panel';
