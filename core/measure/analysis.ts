import { BandLevelsAnalyser } from './band-levels';
import { LevelMeter } from './levels';
import { integratedLufs, loudnessRangeLu } from './loudness';
import { LoudnessMeter } from './loudness-meter';
import { PeaksBuilder, type PeaksLevel } from './peaks';
import { TruePeakMeter } from './true-peak';

/** The version of what is stored of a recording: what is older is measured again. */
export const ANALYSIS_VERSION = 2;

/** What is measured of a recording when it comes in. */
export interface RecordingAnalysis {
  version: number;
  /** 120 values, see `SPECTRUM_BAND_EDGES`; dB relative to a full-scale sine. */
  spectrumDb: number[];
  samplePeakDb: number;
  truePeakDb: number;
  rmsDb: number;
  /** Integrated loudness; null for silence. */
  integratedLufs: number | null;
  loudnessRangeLu: number;
  peaks: PeaksLevel[];
}

/** A recording as it is measured: its figures, and its levels over time (see {@link BandLevelsAnalyser}). */
export interface MeasuredRecording {
  analysis: RecordingAnalysis;
  bandLevels: Uint8Array;
}

const hundredths = (value: number) => Math.round(value * 100) / 100;

/** Measures a recording that is pushed in pieces. */
export class RecordingAnalyser {
  private readonly bands: BandLevelsAnalyser;
  private readonly loudness: LoudnessMeter;
  private readonly truePeak: TruePeakMeter;
  private readonly peaks = new PeaksBuilder();
  private readonly levels = new LevelMeter();

  constructor(rateHz: number, channels: number) {
    this.bands = new BandLevelsAnalyser(rateHz, channels);
    this.loudness = new LoudnessMeter(rateHz, channels);
    this.truePeak = new TruePeakMeter(channels);
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    this.bands.push(samples);
    this.loudness.push(samples);
    this.truePeak.push(samples);
    this.peaks.push(samples);
    this.levels.push(samples);
  }

  finish(): MeasuredRecording {
    const bandLevels = this.bands.finish();
    const lufs = integratedLufs(this.loudness.powers);
    const analysis = {
      version: ANALYSIS_VERSION,
      spectrumDb: this.bands.longTermDb().map(hundredths),
      samplePeakDb: this.levels.samplePeakDb,
      truePeakDb: this.truePeak.finish(),
      rmsDb: this.levels.rmsDb,
      integratedLufs: Number.isFinite(lufs) ? lufs : null,
      loudnessRangeLu: loudnessRangeLu(this.loudness.powers),
      peaks: this.peaks.finish(),
    };
    return { analysis, bandLevels };
  }
}
