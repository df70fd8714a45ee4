/**
 * Inner loops of processors for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles them). The operations and their order are
 * those of the plain loops beside them, so both give the same numbers to the last bit.
 */
export { CLIPPER_BYTES, clip } from './clipper';
export { PEAKS_BYTES, peaks } from './limiter';
export { runLines, scatter } from './reverb';
