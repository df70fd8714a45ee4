'use client';
import { memo, useRef } from 'react';
import styled from 'styled-components';
import { writeGain } from '@/core/formats';
import { FADER_RANGE_DB, findStrip, isReturn, sendTargets, setSend, type Send, type Song } from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import { arrowDirection, stepDb, stepSize, tidyDb } from '../../kit/gestures/steps';
import { useDesk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { settledSong, songOf } from '../../window/song/live-song';
import { useSelection } from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { useLiveStrip } from '../../window/song/use-live-strip';
import { isDeleteKey } from '../../kit/gestures/plain-key';

/** The bar is so much of the lane's width at the most. */
const SHARE = 0.3;
/** What is lower than this is off. */
const OFF_DB = FADER_RANGE_DB.min;

/** The return on the bench, where a strip can be sent to it. */
function targetOf(song: Song, stripId: string, chosenId: string): string | null {
  if (chosenId === stripId || !isReturn(song, chosenId)) return null;
  const strip = findStrip(song, stripId);
  return strip && 'sends' in strip && sendTargets(song, stripId).some(({ id }) => id === chosenId) ? chosenId : null;
}

const sendOf = (song: Song, stripId: string, busId: string): Send | undefined => {
  const strip = findStrip(song, stripId);
  return strip && 'sends' in strip ? strip.sends.find((send) => send.busId === busId) : undefined;
};

const shareOf = (send: Send | undefined): number => (send ? (send.gainDb - OFF_DB) / (FADER_RANGE_DB.max - OFF_DB) : 0);

/** Puts the keyboard on the send of the lane above, or below. */
function focusNext(grip: Element, direction: 1 | -1): void {
  const all = [...document.querySelectorAll<HTMLElement>('[data-send-grip]')];
  all[all.indexOf(grip as HTMLElement) - direction]?.focus();
}

/** What of a strip goes to the return on the bench: a bar at the top of its lane, dragged by its end, to nothing at the left. */
export const LaneSend = memo(function LaneSend({ stripId, isReached }: { stripId: string; isReached: boolean }) {
  const desk = useDesk();
  const axis = useAxis();
  const bar = useRef<HTMLDivElement>(null);
  const chosenId = useSelection((selection) => selection.stripId);
  const busId = useSong((song) => targetOf(song, stripId, chosenId));
  const name = useSong((song) => (busId ? (song.buses.find(({ id }) => id === busId)?.name ?? '') : ''));
  const ink = useSong((song) => (busId ? (song.buses.find(({ id }) => id === busId)?.ink ?? 0) : 0));
  const send = useSong((song) => (busId ? sendOf(song, stripId, busId) : undefined));
  const width = SHARE * axis.width;
  useLiveStrip(stripId, (strip) => {
    const now = 'sends' in strip ? strip.sends.find((other) => other.busId === busId) : undefined;
    if (bar.current) bar.current.style.width = `${(shareOf(now) * width).toFixed(1)}px`;
  });
  if (!busId) return null;
  const label = `Send to ${name}`;
  const edit = (gainDb: number) =>
    setSend(songOf(desk), stripId, busId, gainDb <= OFF_DB ? null : { gainDb: Math.min(FADER_RANGE_DB.max, gainDb) });
  const onKeyDown = (event: React.KeyboardEvent) => {
    const arrow = arrowDirection(event);
    const { edit: apply, editByKey } = useSongStore.of(desk);
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (arrow?.axis === 'y') focusNext(event.currentTarget, arrow.direction);
    else if (arrow) {
      const from = send?.gainDb ?? OFF_DB;
      editByKey(edit(stepDb(from, arrow.direction, stepSize(event), FADER_RANGE_DB)), label, `${stripId}/${busId}`);
    } else if (isDeleteKey(event)) apply(edit(OFF_DB), label);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Bar ref={bar} data-ink="" style={{ background: `var(--ink-${ink})` }} data-testid={`send-${stripId}`}>
      <Grip
        role="slider"
        data-send-grip
        tabIndex={send || isReached ? 0 : -1}
        aria-label={label}
        aria-valuemin={OFF_DB}
        aria-valuemax={FADER_RANGE_DB.max}
        aria-valuenow={send?.gainDb ?? OFF_DB}
        aria-valuetext={send ? writeGain(send.gainDb) : 'off'}
        data-hint={`${label}, ${send ? `${writeGain(send.gainDb)}, ${send.tap === 'after-fader' ? 'after' : 'before'} the fader` : 'off'}: drag it, or press ← → · ↑ ↓ go to the next lane`}
        onKeyDown={onKeyDown}
        onPointerDown={(event) => {
          const from = shareOf(sendOf(settledSong(desk), stripId, busId));
          dragEdit(desk, event, label, ({ dx }) => {
            const share = Math.min(1, Math.max(0, from + dx / width));
            const gainDb = OFF_DB + share * (FADER_RANGE_DB.max - OFF_DB);
            return setSend(
              settledSong(desk),
              stripId,
              busId,
              share === 0 ? null : { gainDb: tidyDb(gainDb, FADER_RANGE_DB) },
            );
          });
        }}
      />
    </Bar>
  );
});

const Bar = styled.div`
  position: absolute;
  top: 1px;
  left: 8px;
  height: 3px;
  /* Above the end that is dragged in from the side. */
  z-index: 3;
`;
const Grip = styled.div`
  position: absolute;
  top: -5px;
  right: -12px;
  width: 24px;
  height: 14px;
  cursor: ew-resize;
  touch-action: none;
  &::after {
    content: '';
    position: absolute;
    top: 3px;
    left: 8px;
    width: 8px;
    height: 8px;
    border: 1.5px solid var(--ink);
    background: var(--field);
    transform: rotate(45deg);
  }
`;
