'use client';
import { useDesk } from '../../window/desk/desk';
import { ToggleButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { useTogether } from '../../window/song/selection';
import { freezeTracks, frozenState, useFrozen, type FrozenState } from '../../window/sound/frozen';
import { songOf } from '../../window/song/live-song';

export const FROZEN_WORDS: Record<FrozenState, string> = {
  live: '',
  waiting: 'not rendered yet',
  rendering: 'being rendered',
  frozen: 'its render is played',
  failed: 'could not be rendered',
};

/** Whether the track is played as a render of its chain, and what is the matter with it. */
export function FrozenRow({ stripId }: { stripId: string }) {
  const desk = useDesk();
  const together = useTogether(stripId);
  const state = useFrozen((store) => frozenState(store, stripId));
  const problem = useFrozen((store) => store.failed[stripId]);
  const isFrozen = state !== 'live';
  return (
    <FigureRow>
      <span>Frozen</span>
      <ToggleButton
        $tone="ink"
        isSelected={isFrozen}
        data-hint="Plays a render of the track through its chain, so that the machine need not run it · what you change is heard at once, and rendered anew"
        onChange={(next) =>
          freezeTracks(
            desk,
            together.filter((id) => songOf(desk).tracks.some((track) => track.id === id)),
            next,
          )
        }
      >
        {isFrozen ? 'Frozen' : 'Live'}
      </ToggleButton>
      <i title={problem}>{problem && state === 'failed' ? problem : FROZEN_WORDS[state]}</i>
    </FigureRow>
  );
}
