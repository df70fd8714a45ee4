export { ScorePage } from './score-page';
