export { Bar } from './bar';
