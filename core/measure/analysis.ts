import { BandLevelsAnalyser } from './band-levels';
import { PeaksBuilder, type PeaksLevel } from './peaks';
import { SoundMeter } from './sound-meter';

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
  /** The waveform in one coarse level, as it is seen whole; none for no samples. */
  peaks: PeaksLevel[];
}

/** A recording as it is measured: its figures, its levels over time (see {@link BandLevelsAnalyser}), and its waveform (see {@link PeaksBuilder}). */
export interface MeasuredRecording {
  analysis: RecordingAnalysis;
  bandLevels: Uint8Array;
  waveform: Int16Array;
}

const hundredths = (value: number) => Math.round(value * 100) / 100;

/** Measures a recording that is pushed in pieces. */
export class RecordingAnalyser {
  private readonly bands: BandLevelsAnalyser;
  private readonly sound: SoundMeter;
  private readonly peaks = new PeaksBuilder();

  constructor(rateHz: number, channels: number) {
    this.bands = new BandLevelsAnalyser(rateHz, channels);
    this.sound = new SoundMeter(rateHz, channels);
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    this.bands.push(samples);
    this.sound.push(samples);
    this.peaks.push(samples);
  }

  finish(): MeasuredRecording {
    const bandLevels = this.bands.finish();
    const { waveform, overview } = this.peaks.finish();
    const { integratedLufs, loudnessRangeLu, truePeakDbtp, samplePeakDbfs, rmsDbfs } = this.sound.finish();
    const analysis = {
      version: ANALYSIS_VERSION,
      spectrumDb: this.bands.longTermDb().map(hundredths),
      samplePeakDb: samplePeakDbfs,
      truePeakDb: truePeakDbtp,
      rmsDb: rmsDbfs,
      integratedLufs,
      loudnessRangeLu,
      peaks: overview ? [overview] : [],
    };
    return { analysis, bandLevels, waveform };
  }
}
