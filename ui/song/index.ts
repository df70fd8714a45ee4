export { errorOf, request, requestBytes } from './api';
export { addBand, changeBand, changeBandByKey, makeBand, removeBand, setBand, type BandChanges } from './band-edits';
export { addBands, chooseNewest, copyOf, putCopied, putEqualizer, type Copied } from './equalizer-edits';
export { stepStrips, setStrips } from './strip-edits';
export { carriedEqualizer, carriesEqualizer, carryEqualizer } from './carry';
export { useJobs, type JobView } from './jobs-store';
export {
  chosenBand,
  chosenStrip,
  chosenStrips,
  pathIn,
  stripName,
  togetherWith,
  useChosenBand,
  useChosenStrip,
  useSelection,
  useSettledBand,
  useStripFacts,
  useTrackList,
  type StripFacts,
} from './selection';
export { currentSong, onEarlySong, useSong, useSongStore, type Notice, type SavedState } from './song-store';
export { startSync } from './sync';
