'use client';
import { writeNumber } from '@/core/formats';
import { useDesk } from '../../window/desk/desk';
import { Button } from '../../kit/controls/button';
import { Checkbox } from '../../kit/controls/checkbox';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { TickList } from '../../kit/controls/tick-list';
import { useSong } from '../../window/song/song-store';
import { freezeTracks, frozenState, useFrozen } from '../../window/sound/frozen';
import { chainCost, useFreezeSheet } from './freeze-store';
import { FROZEN_WORDS } from './frozen-row';

/** The tracks of the song, those first whose chains cost most: each is frozen, or plays live. */
export function FreezeSheet() {
  const desk = useDesk();
  const isOpen = useFreezeSheet((sheet) => sheet.isOpen);
  return isOpen ? <Tracks onClose={() => useFreezeSheet.of(desk).setOpen(false)} /> : null;
}

const written = (cost: number) => (cost < 0.0005 ? 'next to nothing' : `about ${writeNumber(100 * cost)} %`);

function Tracks({ onClose }: { onClose: () => void }) {
  const desk = useDesk();
  const tracks = useSong((song) => song.tracks);
  const store = useFrozen();
  const rows = tracks
    .map((track) => ({ ...track, cost: chainCost(track) }))
    .sort((first, second) => second.cost - first.cost);
  const set = (ids: readonly string[], isFrozen: boolean) => freezeTracks(desk, ids, isFrozen);
  const ids = tracks.map(({ id }) => id);
  return (
    <Dialog title="Freeze tracks" isOpen onClose={onClose}>
      <p>
        A frozen track is played from a render of its chain, which is made in the background. Level, position, mute,
        solo and sends work as ever; when something of its chain is changed it plays live until it is rendered anew.
        Nothing of it is part of the song. The share of the audio thread is what such processors took on the machine
        that they were measured on.
      </p>
      <TickList>
        {rows.map(({ id, name, cost }) => {
          const state = frozenState(store, id);
          return (
            <li key={id}>
              <Checkbox isChecked={state !== 'live'} onToggle={() => set([id], state === 'live')}>
                <b>{name}</b>
                <span>{written(cost)}</span>
                {state !== 'live' && <small>{store.failed[id] ?? FROZEN_WORDS[state]}</small>}
              </Checkbox>
            </li>
          );
        })}
      </TickList>
      <DialogActions>
        <Button isDisabled={store.chosen.length === 0} onPress={() => set(ids, false)}>
          Thaw all
        </Button>
        <Button isDisabled={ids.every((id) => store.chosen.includes(id))} onPress={() => set(ids, true)}>
          Freeze all
        </Button>
        <Button $strong onPress={onClose}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}
