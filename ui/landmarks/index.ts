export { LANDMARK_ROW, LandmarkRow } from './landmark-row';
export { LandmarksPanel } from './landmarks-panel';
export { useLandmarks } from './landmarks-store';
