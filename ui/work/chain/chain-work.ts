import { PROCESSOR_WORDS } from '@/core/formats';
import { givesWay, keyOf } from '@/core/song';
import type { Hold } from '../../window/commands/holds';
import type { Desk } from '../../window/desk/desk';
import { moveProcessor, removeProcessor } from '../../window/song/processor-edits';
import { chosenBand, chosenProcessor, chosenStrip, useSelection } from '../../window/song/selection';
import { useListening } from '../../window/sound/listening';
import type { Work } from '../work';
import { ADDABLE, addOfKind } from './chain-line';

/** The processor on the bench, and its place in its chain. */
function shown(desk: Desk) {
  const { id, chain } = chosenStrip(desk);
  const processor = chosenProcessor(desk);
  return { stripId: id, chain, processor, at: chain.findIndex((other) => other.id === processor?.id) };
}

function choose(desk: Desk, direction: 1 | -1): void {
  const { chain, at } = shown(desk);
  const next = chain[at + direction];
  if (next) useSelection.of(desk).chooseProcessor(next.id);
}

function move(desk: Desk, direction: 1 | -1): void {
  const { stripId, processor, at } = shown(desk);
  if (processor) moveProcessor(desk, stripId, processor.id, at + direction);
}

/** K held: what the chosen band, or the processor on the bench, listens to is heard alone. */
const keyHold = (desk: Desk): Hold => ({
  key: 'k',
  begin: () => {
    const { stripId, processor } = shown(desk);
    const { band } = chosenBand(desk);
    const listenerId = band && givesWay(band) ? band.id : processor && keyOf(processor) ? processor.id : null;
    if (listenerId) useListening.of(desk).hearKey({ stripId, processorId: listenerId });
  },
  end: () => useListening.of(desk).hearKey(null),
});

/** What stands in the way of a strip's sound: added, chosen, put in order, removed. */
export const chainWork: Work = {
  hold: keyHold,
  commands: (desk) => [
    {
      id: 'processor-before',
      name: 'Choose the processor before',
      key: { key: 'ArrowLeft', alt: true },
      run: () => choose(desk, -1),
    },
    {
      id: 'processor-after',
      name: 'Choose the next processor',
      key: { key: 'ArrowRight', alt: true },
      run: () => choose(desk, 1),
    },
    {
      id: 'processor-earlier',
      name: 'Move the processor towards the beginning of its chain',
      key: { key: 'ArrowLeft', alt: true, shift: true },
      run: () => move(desk, -1),
    },
    {
      id: 'processor-later',
      name: 'Move the processor towards the end of its chain',
      key: { key: 'ArrowRight', alt: true, shift: true },
      run: () => move(desk, 1),
    },
    {
      id: 'processor-remove',
      name: 'Remove the processor on the bench',
      run: () => {
        const { stripId, processor } = shown(desk);
        if (processor) removeProcessor(desk, stripId, processor.id);
      },
    },
    ...ADDABLE.map((kind) => ({
      id: `add-${kind}`,
      name: `Add to the chain: ${PROCESSOR_WORDS[kind].name.toLowerCase()}`,
      run: () => addOfKind(desk, kind),
    })),
  ],
};
