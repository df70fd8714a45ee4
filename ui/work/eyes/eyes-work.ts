import type { Work } from '../work';
import { EyesReport } from './eyes-report';
import { useEyes } from './eyes-store';

/** Working by ear, with the pictures hidden. */
export const eyesWork: Work = {
  Sheets: EyesReport,
  commands: (desk) => [
    {
      id: 'eyes-off',
      name: 'Eyes off or on',
      also: ['hide', 'figures', 'ears'],
      key: { key: 'e', shift: true },
      duringDrag: true,
      run: () => useEyes.of(desk).toggle(),
    },
  ],
};
