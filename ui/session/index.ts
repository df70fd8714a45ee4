export { useAnalyses } from './analyses';
export {
  audioState,
  liveAtFader,
  positionSeconds,
  refreshLiveSpectra,
  startSession,
  useSession,
} from './session-store';
export { useFrames } from './use-frames';
export { useLiveRedraw } from './use-live-redraw';
export { useRidgeTop, useStripSpectrum } from './use-spectra';
