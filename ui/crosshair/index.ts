export { Crosshair } from './crosshair';
export { showCrosshair } from './crosshair-store';
export { useCrosshair } from './use-crosshair';
