export { EarshotLayer } from './earshot-layer';
export { bandExtent, earshotHold, endEarshot, toggleEarshot, useEarshot } from './earshot-store';
