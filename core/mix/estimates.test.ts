import { emptyEqualizer, emptySong, newBandSettings, newProcessor, newTrack, type Chain, type Song } from '../song';
import { isEstimated } from './strip-measures';

const songOf = (chain: Chain): Song => ({
  ...emptySong('Estimates'),
  tracks: [
    { ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 9 }, { id: 't', name: 't', ink: 0 }), chain },
  ],
});
const band = { ...newBandSettings('bell', 500), id: 'b', letter: 'A' };
const givesWay = {
  amountDb: -3,
  thresholdDb: -30,
  attackMs: 5,
  holdMs: 0,
  releaseMs: 50,
  key: { stripId: 'self', lowHz: null, highHz: null },
};

test('levels are an estimate where something is on that reacts to them', () => {
  expect(isEstimated(songOf([{ ...emptyEqualizer('e'), bands: [band] }]))).toBe(false);
  expect(isEstimated(songOf([newProcessor('compressor', 'c')]))).toBe(true);
  expect(isEstimated(songOf([{ ...newProcessor('compressor', 'c'), enabled: false }]))).toBe(false);
  expect(isEstimated(songOf([{ ...emptyEqualizer('e'), bands: [{ ...band, givesWay }] }]))).toBe(true);
});
