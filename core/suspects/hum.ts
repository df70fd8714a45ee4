import { FrameAnalyser, LevelRows, percentile, toLevelDb, topShift } from './frames';
import type { FoundSuspect } from './suspect';

/** Mains frequencies, and how far they drift. */
const MAINS_HZ = [50, 60] as const;
const DRIFT = 0.006;
const HARMONICS = 8;
/** Bins are kept up to here, Hz. */
const HIGHEST_HZ = 520;
/**
 * A harmonic is there where it stands this far over the middle of its surroundings, dB, for so much of the time in which those are softest: sounds hide it
 * at others.
 */
const LEAST_PROMINENCE_DB = 9;
const LEAST_SHARE = 0.5;
const SOFTEST_SHARE = 1 / 3;
const FEWEST_SOFT = 6;
const SURROUNDINGS_HZ = 9;
/** Harmonics of one frequency lie at its multiples, to this share; what lies elsewhere is played. */
const SAME_FREQUENCY = 0.0015;
/** So many must agree, two of them among the first three; or more of any. */
const LEAST_HARMONICS = 3;
const LEAST_OF_ANY = 4;
const FEWEST_FRAMES = 6;

const median = (values: number[]) =>
  percentile(
    values.sort((a, b) => a - b),
    0.5,
  );

/** So many windows tell: of a long recording they lie apart. */
const MOST_FRAMES = 90;

/** Finds mains hum: 50 or 60 Hz and its harmonics, whatever is played. Windows of 1.4 s at 48 kHz. */
export class HumFinder {
  private readonly frames: FrameAnalyser;
  private readonly rows: LevelRows;
  private readonly binHz: number;

  /** @param lengthFrames of the whole recording; 0 where that is not known */
  constructor(rateHz: number, lengthFrames: number) {
    const size = rateHz > 50000 ? 131072 : 65536;
    this.binHz = rateHz / size;
    const bins = Math.ceil(HIGHEST_HZ / this.binHz);
    this.rows = new LevelRows(bins);
    const hop = Math.max(size / 2, Math.floor(lengthFrames / MOST_FRAMES));
    const addFrame = (power: Float64Array) => {
      const levels = Array.from(power, toLevelDb);
      if (Math.max(...levels) > -120) this.rows.add(levels);
    };
    this.frames = new FrameAnalyser(size, hop, addFrame, bins);
  }

  push(samples: readonly ArrayLike<number>[]): void {
    this.frames.push(samples);
  }

  /** Of one harmonic: how far it stands out, where, and for how much of the time, in the windows in which what is around it is softest; and for how much of all. */
  private harmonicAt(hz: number): { prominenceDb: number; frequencyHz: number; share: number; timeShare: number } {
    const { rows, binHz } = this;
    const windows: { aroundDb: number; prominenceDb: number; place: number }[] = [];
    for (let row = 0; row < rows.count; row++) {
      let top = Math.floor((hz * (1 - DRIFT)) / binHz);
      for (let bin = top; bin <= Math.ceil((hz * (1 + DRIFT)) / binHz); bin++)
        if (rows.at(row, bin) > rows.at(row, top)) top = bin;
      const around: number[] = [];
      for (let bin = Math.round((hz - SURROUNDINGS_HZ) / binHz); bin <= (hz + SURROUNDINGS_HZ) / binHz; bin++)
        if (Math.abs(bin - top) > 3) around.push(rows.at(row, bin));
      const aroundDb = median(around);
      const place = (top + topShift(rows.at(row, top - 1), rows.at(row, top), rows.at(row, top + 1))) * binHz;
      windows.push({ aroundDb, prominenceDb: rows.at(row, top) - aroundDb, place });
    }
    const shareOf = (some: typeof windows) =>
      some.filter(({ prominenceDb }) => prominenceDb >= LEAST_PROMINENCE_DB).length / Math.max(1, some.length);
    const softest = windows
      .sort((a, b) => a.aroundDb - b.aroundDb)
      .slice(0, Math.max(FEWEST_SOFT, Math.round(SOFTEST_SHARE * windows.length)));
    return {
      prominenceDb: median(softest.map(({ prominenceDb }) => prominenceDb)),
      frequencyHz: median(softest.map(({ place }) => place)),
      share: shareOf(softest),
      timeShare: shareOf(windows),
    };
  }

  finish(): FoundSuspect[] {
    this.frames.finish();
    if (this.rows.count < FEWEST_FRAMES) return [];
    const found = MAINS_HZ.flatMap((mainsHz): FoundSuspect[] => {
      const harmonics = Array.from({ length: HARMONICS }, (_, i) => this.harmonicAt(mainsHz * (i + 1)));
      const places = harmonics.map(({ frequencyHz }, i) => frequencyHz / (i + 1));
      const stands = harmonics.map(
        ({ share }, i) => share >= LEAST_SHARE && Math.abs(places[i] / mainsHz - 1) <= DRIFT,
      );
      const frequencyHz = median(places.filter((_, i) => stands[i]));
      const agrees = stands.map((does, i) => does && Math.abs(places[i] / frequencyHz - 1) <= SAME_FREQUENCY);
      const count = agrees.filter(Boolean).length;
      const isLow = agrees.slice(0, 3).filter(Boolean).length >= 2;
      if (count < (isLow ? LEAST_HARMONICS : LEAST_OF_ANY)) return [];
      const strongest = harmonics
        .filter((_, i) => agrees[i])
        .reduce((best, harmonic) => (harmonic.prominenceDb > best.prominenceDb ? harmonic : best));
      return [
        {
          kind: 'hum',
          frequencyHz,
          lowHz: frequencyHz * 0.98,
          highHz: frequencyHz * 1.02,
          prominenceDb: strongest.prominenceDb,
          timeShare: strongest.timeShare,
          sureness: Math.min(0.95, 0.5 + 0.1 * count),
          harmonics: agrees.lastIndexOf(true) + 1,
        },
      ];
    });
    return found.sort((a, b) => b.sureness - a.sureness || b.prominenceDb - a.prominenceDb).slice(0, 1);
  }
}
