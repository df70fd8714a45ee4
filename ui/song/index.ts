export { errorOf, request, requestBytes } from './api';
export { addBand, changeBand, changeBandByKey, makeBand, removeBand, setBand, type BandChanges } from './band-edits';
export { useJobs, type JobView } from './jobs-store';
export {
  chosenBand,
  chosenStrip,
  pathIn,
  stripName,
  useChosenBand,
  useChosenStrip,
  useSelection,
  useSettledBand,
  useStripFacts,
  type StripFacts,
} from './selection';
export { currentSong, useSong, useSongStore, type Notice, type SavedState } from './song-store';
export { startSync } from './sync';
