export { EarshotLayer } from './earshot-layer';
export { earshotHold, toggleEarshot } from './earshot-store';
