/** What a transform of so many points turns by: e^(−2πik/size), real and imaginary parts in turn, k from 0. */
export const twiddlesOf = (size: number): Float64Array =>
  Float64Array.from({ length: 2 * size }, (_, i) => {
    const angle = (-2 * Math.PI * Math.floor(i / 2)) / size;
    return i % 2 === 0 ? Math.cos(angle) : Math.sin(angle);
  });
