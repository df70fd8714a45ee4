export { Register } from './register';
