import FFT from 'fft.js';

/** The Blackman–Harris window of four terms, −92 dB beside its main lobe: F. Harris, Proc. IEEE 66, 1978, table 1. */
const blackmanHarris = (size: number) =>
  Float64Array.from({ length: size }, (_, n) => {
    const phase = (2 * Math.PI * n) / size;
    return 0.35875 - 0.48829 * Math.cos(phase) + 0.14128 * Math.cos(2 * phase) - 0.01168 * Math.cos(3 * phase);
  });

/** Powers of the bins of windows; a full-scale sine = 1, channels averaged. Two windows go through one transform. */
export class PowerFrames {
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly input: Float64Array;
  private readonly output: number[];
  private readonly scale: number;
  private readonly powers: [Float64Array, Float64Array];

  /** @param size of a window, a power of two; @param hop from one to the next */
  constructor(
    private readonly size: number,
    private readonly hop: number,
  ) {
    this.fft = new FFT(size);
    this.window = blackmanHarris(size);
    this.input = new Float64Array(2 * size);
    this.output = this.fft.createComplexArray();
    this.scale = 4 / this.window.reduce((sum, value) => sum + value, 0) ** 2;
    this.powers = [new Float64Array(size / 2 + 1), new Float64Array(size / 2 + 1)];
  }

  /**
   * Goes through a stretch, without the part of a window at its end.
   * @param samples one array per channel, one or two of equal length
   * @param take receives the powers of each window in turn; the array is used again
   */
  run(samples: readonly ArrayLike<number>[], take: (powers: Float64Array) => void): void {
    const { size, hop, powers } = this;
    const [left, right] = samples;
    const count = left.length < size ? 0 : Math.floor((left.length - size) / hop) + 1;
    for (let frame = 0; frame < count; frame += right ? 1 : 2) {
      const at = frame * hop;
      if (right) {
        this.transform(left, at, right, at);
        for (let k = 0; k < powers[0].length; k++) powers[0][k] = (powers[0][k] + powers[1][k]) / 2;
        take(powers[0]);
        continue;
      }
      const hasNext = frame + 1 < count;
      this.transform(left, at, left, hasNext ? at + hop : at);
      take(powers[0]);
      if (hasNext) take(powers[1]);
    }
  }

  /** Transforms two windows as one complex signal, and takes them apart again. */
  private transform(one: ArrayLike<number>, oneAt: number, other: ArrayLike<number>, otherAt: number): void {
    const { size, window, input, output, powers, scale } = this;
    for (let n = 0; n < size; n++) {
      input[2 * n] = one[oneAt + n] * window[n];
      input[2 * n + 1] = other[otherAt + n] * window[n];
    }
    this.fft.transform(output, input);
    for (let k = 0; k <= size / 2; k++) {
      const here = 2 * k;
      const mirror = 2 * ((size - k) % size);
      const [re, im, mirrorRe, mirrorIm] = [output[here], output[here + 1], output[mirror], output[mirror + 1]];
      powers[0][k] = (((re + mirrorRe) / 2) ** 2 + ((im - mirrorIm) / 2) ** 2) * scale;
      powers[1][k] = (((im + mirrorIm) / 2) ** 2 + ((mirrorRe - re) / 2) ** 2) * scale;
    }
  }
}
