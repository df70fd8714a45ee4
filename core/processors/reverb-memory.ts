/** Where the lines of a reverb keep their past, and what decides what comes out of them: laid out for the compiled loop. */
export const LINES = 16;
/** Frames that are run at a time; every line is longer. */
export const RUN = 128;

/** Numbers of each line, those of an even one and of the next in turn: gains, how far its filters follow, their states, its signs. */
export const NUMBERS = {
  both: 0,
  low: 1,
  high: 2,
  keptLow: 3,
  followLow: 4,
  keptHigh: 5,
  followHigh: 6,
  lowPole: 7,
  highPole: 8,
  heard: 9,
  fed: 10,
} as const;
const PER_LINE = Object.keys(NUMBERS).length;
/** Where a number of a line lies. */
export const numberAt = (line: number, name: keyof typeof NUMBERS) =>
  2 * ((line >> 1) * PER_LINE + NUMBERS[name]) + (line & 1);

export interface ReverbMemory {
  readonly numbers: Float64Array;
  /** The past of each line: as many samples as were asked for. */
  readonly pasts: readonly Float64Array[];
  /** Null where there is no compiled loop: the lines are run one after the other. */
  readonly compiled: CompiledLines | null;
}

/** The all-passes, and one step of the whole network while nothing of it but the lines that move is on its way. */
export interface CompiledLines {
  /** How late each line that moves comes out where the piece begins, and its slope, in turn: written before each run. */
  readonly moves: Float64Array;
  /** What comes in, both sides in turn: written before each run. */
  readonly fed: Float64Array;
  /** What is heard of it, both sides in turn, at the same places. */
  readonly out: Float64Array;
  /**
   * @param from where in `fed` and `out` it begins, frames
   * @param since frames of the piece that are over
   * @param at frames that the network has run
   * @param ended what is softer counts as silence, linear
   * @param mixGain the loss that keeps the mix of the lines without gain
   * @returns true where a line is louder than that
   */
  run(from: number, frames: number, since: number, at: number, ended: number, mixGain: number): boolean;
  /** The all-passes, over what comes in, in place. */
  scatter(amount: number, frames: number): void;
  /** Forgets what is in the all-passes. */
  clearScatter(): void;
  /** Gives the memory of the whole reverb back: it must not be used again. */
  release(): void;
}

export const NUMBER_COUNT = PER_LINE * LINES;

export interface LineSize {
  /** Samples that its past has room for: a power of two. */
  room: number;
  /** How late it comes out, where it does not move. */
  lateFrames: number;
}

/** Memory of the language's own, without a compiled loop. */
export const plainReverbMemory = (lines: readonly LineSize[]): ReverbMemory => ({
  numbers: new Float64Array(NUMBER_COUNT),
  pasts: lines.map(({ room }) => new Float64Array(room)),
  compiled: null,
});
