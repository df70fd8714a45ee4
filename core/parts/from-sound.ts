import { SPECTRUM_CENTERS_HZ, type RecordingAnalysis } from '../measure';
import type { ProposedPart } from './from-name';

/** Parts that are told by where a recording has its power. Sureness: how many of the single sounds of `sonic-pi-samples` that are so are named for it. */
const LOW_HZ = 160;
const HIGH_HZ = 5000;
const KICK_SHARE = 0.9;
const BASS_SHARE = 0.6;
/** What is struck has higher peaks than what is held. */
const STRUCK_CREST_DB = 15;
const CYMBAL_SHARE = 0.55;

const KICK_SURENESS = 0.55;
const BASS_SURENESS = 0.6;
const CYMBAL_SURENESS = 0.55;

/** The part that a recording sounds like; null where that is not clear. Only what lies at the ends of the spectrum is told. */
export function partFromSound(
  analysis: Pick<RecordingAnalysis, 'spectrumDb' | 'samplePeakDb' | 'rmsDb'>,
): ProposedPart | null {
  let [all, low, high] = [0, 0, 0];
  analysis.spectrumDb.forEach((db, band) => {
    const power = 10 ** (db / 10);
    all += power;
    if (SPECTRUM_CENTERS_HZ[band] <= LOW_HZ) low += power;
    if (SPECTRUM_CENTERS_HZ[band] >= HIGH_HZ) high += power;
  });
  // Silence is nothing.
  if (all < 1e-10) return null;
  if (high / all >= CYMBAL_SHARE) return { part: 'cymbals', sureness: CYMBAL_SURENESS };
  if (low / all >= KICK_SHARE) return { part: 'kick drum', sureness: KICK_SURENESS };
  const crestDb = analysis.samplePeakDb - analysis.rmsDb;
  if (low / all >= BASS_SHARE && crestDb < STRUCK_CREST_DB) return { part: 'bass', sureness: BASS_SURENESS };
  return null;
}
