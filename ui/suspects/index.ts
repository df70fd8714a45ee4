export { SuspectsPanel } from './suspects-panel';
