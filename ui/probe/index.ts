export { ProbeBar } from './probe-bar';
export { ProbeLayer } from './probe-layer';
export { flipNearest, probeHold, toggleProbe } from './probe-store';
