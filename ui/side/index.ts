export { Side } from './side';
