export { describeEdit } from './words';
