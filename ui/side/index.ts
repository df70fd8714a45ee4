export { Side } from './side';
export { SIDES, useSide } from './side-store';
