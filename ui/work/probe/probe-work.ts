import type { Work } from '../work';
import { flipNearest, probeHold, toggleProbe } from './probe-store';

/** A narrow boost that is swept to find what rings. */
export const probeWork: Work = {
  hold: probeHold,
  commands: (desk) => [
    { id: 'probe', name: 'Probe: begin or end (P held)', run: () => toggleProbe(desk) },
    { id: 'flip', name: 'Turn the nearest mark into a cut', key: { key: 'f' }, run: () => flipNearest(desk) },
  ],
};
