export { ReusePanel } from './reuse-panel';
