export { useAnalyses } from './analyses';
export { audioState, liveSpectrum, positionSeconds, refreshLiveSpectra, startSession, useSession } from './session-store';
export { chainResponseDb, heardSpectra, stripSpectrum, trackSpectrum } from './spectra';
export { useFrames } from './use-frames';
