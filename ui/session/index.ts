export { useAnalyses } from './analyses';
export { shadeEdge, useEdgeShade } from './edge-shade';
export { TILT_RANGE_DB, useCompany } from './company';
export {
  draftGainNow,
  mixLufsNow,
  matchedGainFor,
  scopeNow,
  scopeTarget,
  useListening,
  type CompareScope,
  type TestSide,
} from './listening';
export { forgetHeld, heldAtFader, liveAtFader, refreshLiveSpectra } from './live';
export { measureEdge, measureRoom, proposedClaim, proposedStretch, tellMixFailed, useMix, useSpace } from './mix';
export { measuredKey, measurePart, requestPart, useMeasuredParts, type MeasuredPart } from './measured-parts';
export { forgetMeters, refreshMeters, useMeters } from './meters';
export { audioState, positionSeconds, startSession, useSession } from './session-store';
export { soloCompany, soloPair } from './solo';
export { useFrames } from './use-frames';
export { useLiveRedraw } from './use-live-redraw';
export { readLevels, stripSpectrumNow, useCompanySpectra, useRidgeTop, useStripSpectrum } from './use-spectra';
