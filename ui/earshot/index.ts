export { EarshotLayer } from './earshot-layer';
export { earshotHold, earshotKey, toggleEarshot } from './earshot-store';
