'use client';
import { useEffect, useState } from 'react';
import { writeFrequency } from '@/core/formats';
import { EDGE_THRESHOLD_LU } from '@/core/mix';
import { type Desk, useDesk } from '../../window/desk/desk';
import { Button } from '../../kit/controls/button';
import { Checkbox } from '../../kit/controls/checkbox';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { Progress } from '../../kit/controls/progress';
import { TickList } from '../../kit/controls/tick-list';
import { tellMixFailed } from '../../window/sound/mix';
import { useSongStore } from '../../window/song/song-store';
import { useCleaning } from './cleaning-store';
import { cleanEnds, proposeEnds, type EndProposal } from './edge-edits';

const keyOf = ({ trackId, type }: EndProposal) => `${trackId} ${type}`;

/** Ends for all tracks as a list to look through; what is ticked is set as one step. */
export function CleanEndsDialog() {
  const desk = useDesk();
  const isOpen = useCleaning((cleaning) => cleaning.isOpen);
  return isOpen ? <Proposals onClose={() => close(desk)} /> : null;
}
const close = (desk: Desk) => useCleaning.of(desk).setOpen(false);

function Proposals({ onClose }: { onClose: () => void }) {
  const desk = useDesk();
  const [proposals, setProposals] = useState<EndProposal[] | null>(null);
  const [progress, setProgress] = useState(0);
  const [left, setLeft] = useState<readonly string[]>([]);
  const [isBold, setBold] = useState(false);
  useEffect(() => {
    let isOpen = true;
    proposeEnds(desk, isBold, (share) => isOpen && setProgress(share)).then(
      (found) => isOpen && setProposals(found),
      (error: Error) => {
        tellMixFailed(desk, 'The ends', error);
        if (isOpen) onClose();
      },
    );
    return () => {
      isOpen = false;
    };
  }, [desk, isBold, onClose]);
  const chosen = (proposals ?? []).filter((proposal) => !left.includes(keyOf(proposal)));
  const toggle = (key: string) => setLeft(left.includes(key) ? left.filter((kept) => kept !== key) : [...left, key]);
  return (
    <Dialog title="Clean all ends" isOpen onClose={onClose}>
      {proposals === null ? (
        <Progress label="Looking through the whole song" value={progress} />
      ) : proposals.length === 0 ? (
        <p>Every end is where it would be proposed.</p>
      ) : (
        <>
          <p>
            {isBold
              ? `Each high-pass takes ${EDGE_THRESHOLD_LU} LU of what the mix leaves of its track, and goes no more than an octave past what is missed of it alone.`
              : `Each high-pass takes less than ${EDGE_THRESHOLD_LU} LU of its track alone, in the part of the song where it is most exposed.`}{' '}
            Upper ends are shut only where there is noise above, or another track is to be heard there. Kick and bass
            keep their lows.
          </p>
          <TickList>
            {proposals.map((proposal) => {
              const key = keyOf(proposal);
              return (
                <li key={key}>
                  <Checkbox isChecked={!left.includes(key)} onToggle={() => toggle(key)}>
                    <b>{proposal.name}</b>
                    <span>
                      {proposal.type} {proposal.fromHz === null ? 'at' : `${writeFrequency(proposal.fromHz)} →`}{' '}
                      {writeFrequency(proposal.toHz)}
                    </span>
                    <small>{proposal.why}</small>
                  </Checkbox>
                </li>
              );
            })}
          </TickList>
        </>
      )}
      <DialogActions>
        <Checkbox
          isChecked={isBold}
          onToggle={() => {
            setProposals(null);
            setBold(!isBold);
          }}
        >
          Bold: as far as the mix covers it
        </Checkbox>
        <Button onPress={onClose}>Leave them</Button>
        <Button
          $strong
          isDisabled={chosen.length === 0}
          onPress={() => {
            useSongStore.of(desk).edit(cleanEnds(desk, chosen), 'Clean all ends');
            onClose();
          }}
        >
          Set {chosen.length === 1 ? '1 end' : `${chosen.length} ends`}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
