import { BYTE_POWERS, eachRow, SPECTRUM_BANDS, STEPS_PER_SECOND, type LevelRows, type StepRange } from '../measure';
import { spreadBlocks } from './masking';

/** The stretch that is looked at, cut into blocks of equal length: one step of 50 ms each, or more where it is long. */
export interface Blocks extends StepRange {
  stepsPerBlock: number;
  count: number;
}

/** A stretch has at most so many blocks: a minute at 50 ms. */
const MOST_BLOCKS = 1200;

export function blocksOf({ from, to }: StepRange): Blocks {
  const stepsPerBlock = Math.max(1, Math.ceil((to - from) / MOST_BLOCKS));
  return { from, to, stepsPerBlock, count: Math.max(0, Math.ceil((to - from) / stepsPerBlock)) };
}

/** Rows of levels that are no longer than a block of a stretch: a power of two of steps. */
export const stepsPerRowIn = (range: StepRange): number => 2 ** Math.floor(Math.log2(blocksOf(range).stepsPerBlock));

/** The time at which a block begins, seconds. */
export const blockSeconds = (blocks: Blocks, block: number) =>
  (blocks.from + block * blocks.stepsPerBlock) / STEPS_PER_SECOND;

/** Powers of a recording in every block and band, before its gains; full-scale sine = 1, summed over its channels. */
export function blockPowers(levels: LevelRows, channels: 1 | 2, blocks: Blocks): Float32Array {
  const bands = SPECTRUM_BANDS;
  const powers = new Float32Array(blocks.count * bands);
  const { bytes } = levels;
  const powerOf = BYTE_POWERS;
  eachRow(levels, blocks, (at, first, end) => {
    for (let step = first; step < end;) {
      const block = Math.floor((step - blocks.from) / blocks.stepsPerBlock);
      const blockStart = blocks.from + block * blocks.stepsPerBlock;
      const blockEnd = Math.min(blocks.to, blockStart + blocks.stepsPerBlock);
      const share = (channels * (Math.min(end, blockEnd) - step)) / (blockEnd - blockStart);
      for (let band = 0; band < bands; band++) powers[block * bands + band] += share * powerOf[bytes[at + band]];
      step = Math.min(end, blockEnd);
    }
  });
  return powers;
}

/** A track in the mix, block by block and band by band. */
export interface Field {
  /** Powers as they reach the ears. */
  powers: Float32Array;
  /** What they give rise to in the ear: spread over neighbouring bands. */
  excitation: Float32Array;
}

/** Powers as they reach the ears. @param powers see {@link blockPowers}; @param gains one power gain for each band */
export function heardPowers(powers: Float32Array, gains: ArrayLike<number>): Float32Array {
  const own = Float64Array.from(gains);
  const heard = new Float32Array(powers.length);
  for (let at = 0; at < powers.length; at += SPECTRUM_BANDS)
    for (let band = 0; band < SPECTRUM_BANDS; band++) heard[at + band] = powers[at + band] * own[band];
  return heard;
}

/** What powers that reach the ears give rise to. */
export function excitationOf(heard: Float32Array): Float32Array {
  const excitation = new Float32Array(heard.length);
  spreadBlocks(heard, excitation);
  return excitation;
}

/** @param powers see {@link blockPowers}; @param gains one power gain for each band */
export function fieldOf(powers: Float32Array, gains: ArrayLike<number>): Field {
  const heard = heardPowers(powers, gains);
  return { powers: heard, excitation: excitationOf(heard) };
}
