export { BandFigures } from './band-figures';
export { BandList } from './band-list';
export { BenchField } from './bench-field';
