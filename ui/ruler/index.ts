export { Ruler } from './ruler';
