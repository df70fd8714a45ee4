declare module 'fft.js' {
  /** A radix-4 transform; complex arrays are interleaved. */
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    transform(output: number[] | Float64Array, input: ArrayLike<number>): void;
    /** Divided by the size. */
    inverseTransform(output: number[] | Float64Array, input: ArrayLike<number>): void;
    realTransform(output: number[] | Float64Array, input: ArrayLike<number>): void;
  }
}
