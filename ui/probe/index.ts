export { ProbeBar } from './probe-bar';
export { ProbeLayer } from './probe-layer';
export { flipNearest, probeHold, probeKey, toggleProbe } from './probe-store';
