import { SPECTRUM_BAND_EDGES } from './bands';
import { LevelMeter } from './levels';
import { PeaksBuilder, type PeaksLevel } from './peaks';
import { LongTermSpectrum } from './spectrum';

/** What is measured of a recording when it comes in. */
export interface RecordingAnalysis {
  /** 120 values, 1/12-octave bands from 20 Hz; dB relative to a full-scale sine. */
  spectrumDb: number[];
  samplePeakDb: number;
  rmsDb: number;
  peaks: PeaksLevel[];
}

/** Measures a recording that is pushed in pieces. */
export class RecordingAnalyser {
  private readonly spectrum: LongTermSpectrum;
  private readonly peaks = new PeaksBuilder();
  private readonly levels = new LevelMeter();

  constructor(rateHz: number, channels: number) {
    this.spectrum = new LongTermSpectrum(rateHz, channels);
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    this.spectrum.push(samples);
    this.peaks.push(samples);
    this.levels.push(samples);
  }

  finish(): RecordingAnalysis {
    return {
      spectrumDb: this.spectrum.levelsDb(SPECTRUM_BAND_EDGES).map((db) => Math.round(db * 100) / 100),
      samplePeakDb: this.levels.samplePeakDb,
      rmsDb: this.levels.rmsDb,
      peaks: this.peaks.finish(),
    };
  }
}
