export { OverlapsPanel } from './overlaps-panel';
export { useLaneOverlaps } from './overlaps-store';
