export { MainView } from './main-view';
