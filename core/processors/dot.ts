/** The sum of products of some taps with values from a place on: four sums at a time, so that none waits for the one before. */
export function dot(taps: Float64Array, values: Float64Array, at: number): number {
  const { length } = taps;
  let [first, second, third, fourth] = [0, 0, 0, 0];
  const whole = length - (length % 4);
  for (let n = 0; n < whole; n += 4) {
    const place = at + n;
    first += taps[n] * values[place];
    second += taps[n + 1] * values[place + 1];
    third += taps[n + 2] * values[place + 2];
    fourth += taps[n + 3] * values[place + 3];
  }
  for (let n = whole; n < length; n++) first += taps[n] * values[at + n];
  return first + third + (second + fourth);
}
