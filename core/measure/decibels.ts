import { measureKernel } from './kernel/kernel';

/**
 * What makes powers into decibels: compiled, where this thread can run it.
 * @param most how many at once, an even number
 * @param floor is added to each power, so that silence has a level
 * @returns gives the levels of the first `count` powers, in memory that is used again
 */
export function decibelsOf(most: number, floor: number): (powers: Float64Array, count: number) => Float64Array {
  const plain = (powers: Float64Array, count: number) =>
    powers.subarray(0, count).map((power) => 10 * Math.log10(power + floor));
  return measureKernel()?.decibels(most, floor) ?? plain;
}
