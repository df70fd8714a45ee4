import { late, latePanel } from '../../kit/late/late';
import { useListening } from '../../window/sound/listening';
import type { Work } from '../work';
import { useBlind } from './blind-store';

const ComparePanel = latePanel(async () => (await import('./compare-panel')).ComparePanel);
const BlindDialog = late(async () => (await import('./blind-dialog')).BlindDialog);

/** Before and after, blind, drafts. */
export const compareWork: Work = {
  panel: { id: 'compare', name: 'Compare', digit: 2, Panel: ComparePanel },
  LateSheets: BlindDialog,
  hold: (desk) => ({
    key: 'b',
    duringDrag: true,
    begin: () => useListening.of(desk).setBefore(true),
    end: () => useListening.of(desk).setBefore(false),
  }),
  commands: (desk) => {
    const listening = () => useListening.of(desk);
    return [
      {
        id: 'before',
        name: 'Before or after',
        also: ['bypass', 'ab'],
        key: { key: 'b', shift: true },
        duringDrag: true,
        run: () => listening().setBefore(!listening().before),
      },
      { id: 'before-mix', name: 'Compare the mix before and after', run: () => listening().setScope('mix') },
      { id: 'before-track', name: 'Compare the track before and after', run: () => listening().setScope('track') },
      {
        id: 'before-processor',
        name: 'Compare what is on the bench before and after',
        run: () => listening().setScope('processor'),
      },
      { id: 'before-band', name: 'Compare the band before and after', run: () => listening().setScope('band') },
      {
        id: 'matched',
        name: 'Matched loudness on or off',
        run: () => listening().setMatched(!listening().isMatched),
      },
      {
        id: 'blind',
        name: 'Compare blind …',
        also: ['test', 'listening', 'abx'],
        run: () => useBlind.of(desk).open({ kind: 'scope', scope: listening().scope }),
      },
    ];
  },
};
