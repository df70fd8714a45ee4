/** What stands in a chain beside equalizers, as plain values: kinds, figures, their ranges and where they start. */

/** A figure of a processor: what it may be, and how it is written and drawn. */
export interface Figure {
  label: string;
  min: number;
  max: number;
  /** What it is where nothing is said. */
  start: number;
  unit: 'dB' | 'LU' | 'ms' | 's' | 'Hz' | '%' | '×' | ': 1' | '';
  /** How it grows along a line: by differences or by ratios. */
  scale: 'linear' | 'logarithmic';
}

const linear = (label: string, min: number, max: number, start: number, unit: Figure['unit']): Figure => ({
  label,
  min,
  max,
  start,
  unit,
  scale: 'linear',
});
const ratio = (...args: Parameters<typeof linear>): Figure => ({ ...linear(...args), scale: 'logarithmic' });

/** Times are those in which an exponential goes 1 − 1/e of its way; levels are dBFS of a sine's peak. */
export const FIGURES = {
  gate: {
    thresholdDb: linear('Threshold', -90, 0, -90, 'dB'),
    hysteresisDb: linear('Hysteresis', 0, 12, 3, 'dB'),
    depthDb: linear('Depth', -90, 0, -60, 'dB'),
    attackMs: ratio('Attack', 0.05, 100, 0.5, 'ms'),
    holdMs: linear('Hold', 0, 2000, 40, 'ms'),
    releaseMs: ratio('Release', 5, 4000, 120, 'ms'),
    lookAheadMs: linear('Look-ahead', 0, 10, 0, 'ms'),
  },
  compressor: {
    thresholdDb: linear('Threshold', -80, 0, 0, 'dB'),
    ratio: ratio('Ratio', 1, 20, 3, ': 1'),
    kneeDb: linear('Knee', 0, 24, 6, 'dB'),
    attackMs: ratio('Attack', 0.05, 200, 10, 'ms'),
    releaseMs: ratio('Release', 5, 4000, 120, 'ms'),
    makeUpDb: linear('Make-up', -24, 24, 0, 'dB'),
    mixPercent: linear('Mix', 0, 100, 100, '%'),
  },
  clipper: {
    driveDb: linear('Drive', 0, 36, 0, 'dB'),
    ceilingDb: linear('Ceiling', -24, 0, 0, 'dB'),
    bend: linear('Bend', 0, 1, 0.3, ''),
    mixPercent: linear('Mix', 0, 100, 100, '%'),
  },
  ducker: {
    thresholdDb: linear('Threshold', -90, 0, -24, 'dB'),
    depthDb: linear('Depth', 0, 48, 6, 'dB'),
    attackMs: ratio('Attack', 0.05, 200, 5, 'ms'),
    holdMs: linear('Hold', 0, 2000, 30, 'ms'),
    releaseMs: ratio('Release', 5, 4000, 150, 'ms'),
  },
  reverb: {
    decaySeconds: ratio('Decay', 0.1, 20, 1.6, 's'),
    lowRatio: ratio('Lows', 0.25, 4, 1, '×'),
    lowHz: ratio('Lows below', 40, 1000, 200, 'Hz'),
    highRatio: ratio('Highs', 0.1, 2, 0.5, '×'),
    highHz: ratio('Highs above', 1000, 16000, 4000, 'Hz'),
    sizePercent: linear('Size', 0, 100, 50, '%'),
    preDelayMs: linear('Pre-delay', 0, 250, 10, 'ms'),
    densityPercent: linear('Density', 0, 100, 80, '%'),
    widthPercent: linear('Width', 0, 100, 100, '%'),
    wetDb: linear('Level', -60, 12, -12, 'dB'),
  },
  echo: {
    timeMs: ratio('Time', 1, 4000, 350, 'ms'),
    feedbackPercent: linear('Repeats', 0, 95, 35, '%'),
    wetDb: linear('Level', -60, 12, -12, 'dB'),
  },
  limiter: {
    ceilingDb: linear('Ceiling', -24, 0, -1, 'dB'),
    releaseMs: ratio('Release', 5, 2000, 80, 'ms'),
    lookAheadMs: linear('Look-ahead', 1, 10, 3, 'ms'),
  },
} as const satisfies Record<string, Record<string, Figure>>;

/** A band that gives way: its gain is its own plus the amount times how far its key is above the threshold. */
export const GIVES_WAY = {
  amountDb: linear('Amount', -24, 24, -6, 'dB'),
  thresholdDb: linear('Threshold', -80, 0, -30, 'dB'),
  attackMs: ratio('Attack', 1, 200, 10, 'ms'),
  holdMs: linear('Hold', 0, 2000, 0, 'ms'),
  releaseMs: ratio('Release', 5, 4000, 150, 'ms'),
} as const satisfies Record<string, Figure>;
/** So far above the threshold the whole amount is reached, dB. */
export const GIVES_ALL_DB = 10;

/** The processors beside the equalizer. */
export type ProcessorKind = keyof typeof FIGURES;
export const PROCESSOR_KINDS = Object.keys(FIGURES) as ProcessorKind[];

/** What listens to a key: the strip's own sound or another's. */
export const KEYED_KINDS = ['gate', 'compressor', 'ducker'] as const satisfies readonly ProcessorKind[];
export type KeyedKind = (typeof KEYED_KINDS)[number];

/** Level detectors of a compressor. */
export const DETECTORS = ['peak', 'rms'] as const;

/** The key that is the strip's own sound. */
export const OWN_KEY = 'self';

/** Processors of one chain. */
export const MOST_PROCESSORS = 16;
