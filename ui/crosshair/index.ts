export { Crosshair } from './crosshair';
export { crosshairHz, onCrosshair, showCrosshair } from './crosshair-store';
export { useCrosshair } from './use-crosshair';
