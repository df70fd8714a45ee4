import { LevelMeter } from './levels';
import { highestMomentaryLufs, highestShortTermLufs, integratedLufs, loudnessRangeLu } from './loudness';
import { TruePeakMeter } from './true-peak';

/** The standard figures of a sound. Loudness is null for silence. */
export interface SoundFigures {
  integratedLufs: number | null;
  loudnessRangeLu: number;
  highestMomentaryLufs: number | null;
  highestShortTermLufs: number | null;
  truePeakDbtp: number;
  samplePeakDbfs: number;
  rmsDbfs: number;
  crestDb: number;
  /** Null for mono, and for silence on a side. */
  correlation: number | null;
}

/** A loudness as it is told: null for silence. */
const told = (lufs: number): number | null => (Number.isFinite(lufs) ? lufs : null);

/** Measures a sound that is pushed in pieces: loudness and range (BS.1770-4, Tech 3342), true peak, crest, correlation. */
export class SoundMeter {
  private readonly levels: LevelMeter;
  private readonly truePeak: TruePeakMeter;

  constructor(rateHz: number, channels: number) {
    this.levels = new LevelMeter(rateHz);
    this.truePeak = new TruePeakMeter(channels);
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    this.levels.push(samples);
    this.truePeak.push(samples);
  }

  /** K-weighted powers so far, one a step of 50 ms. */
  get powers(): Float64Array {
    return this.levels.powers;
  }

  /** What has been seen so far, dBTP. */
  get truePeakDb(): number {
    return this.truePeak.truePeakDb;
  }

  /** Sample peak over RMS so far, dB. */
  get crestDb(): number {
    return this.levels.crestDb;
  }

  /** The figures of all that was pushed; nothing may be pushed afterwards. */
  finish(): SoundFigures {
    const { powers } = this;
    return {
      integratedLufs: told(integratedLufs(powers)),
      loudnessRangeLu: loudnessRangeLu(powers),
      highestMomentaryLufs: told(highestMomentaryLufs(powers)),
      highestShortTermLufs: told(highestShortTermLufs(powers)),
      truePeakDbtp: this.truePeak.finish(),
      samplePeakDbfs: this.levels.samplePeakDb,
      rmsDbfs: this.levels.rmsDb,
      crestDb: this.levels.crestDb,
      correlation: this.levels.correlation,
    };
  }
}
