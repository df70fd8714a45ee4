import { useListening } from '../../window/sound/listening';
import type { Work } from '../work';
import { earshotHold, toggleEarshot } from './earshot-store';

/** Only a range of a track, or of the mix, is heard. */
export const earshotWork: Work = {
  hold: earshotHold,
  commands: (desk) => [
    {
      id: 'earshot',
      name: 'Hear only the range of the band: begin or end (E held)',
      run: () => toggleEarshot(desk),
    },
    {
      id: 'earshot-matched',
      name: 'Matched loudness of what is heard alone, on or off',
      run: () => useListening.of(desk).setEarshotMatched(!useListening.of(desk).isEarshotMatched),
    },
  ],
};
