/** What people are told of samples that an integer format could not hold. */
export function clippingRemark(clippedSamples: number): string {
  const samples = clippedSamples === 1 ? '1 sample was' : `${clippedSamples} samples were`;
  return `${samples} clipped at full scale; lower the level or take 32-bit float.`;
}
