export { Foot } from './foot';
