'use client';
import { useEffect, useRef } from 'react';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { bandSummary, parseFigure, parseGain, writeFigure, writeGain, writeNumber } from '@/core/formats';
import type { RoomLack, RoomMove, RoomPlan } from '@/core/mix';
import type { Figure } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { Button, TextButton, ToggleButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { FindingActions, FindingRows, Folded, PanelBody, PanelLine } from '../../kit/controls/panel';
import { Progress } from '../../kit/controls/progress';
import { ValueField } from '../../kit/controls/value-field';
import { typeName } from '../../kit/signs/type-names';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { songOf } from '../../window/song/live-song';
import { useSong } from '../../window/song/song-store';
import { stripName, useSelection } from '../../window/song/selection';
import { claimless, proposeClaims } from '../claims/propose-claims';
import {
  decide,
  hearMove,
  leaveWholeRoom,
  limitRoom,
  lookAt,
  openWholeRoom,
  setWholeRoom,
  takeAll,
  useWholeRoom,
} from './whole-room-store';
import { isDeleteKey, plainKey } from '../../kit/gestures/plain-key';

const MOST_CUT: Figure = { label: 'Deepest cut', min: 1, max: 12, start: 6, unit: 'dB', scale: 'linear' };
const MOST_MOVES: Figure = { label: 'Moves a track', min: 1, max: 6, start: 3, unit: '', scale: 'linear' };
const MOST_LOSS: Figure = { label: 'Most a track loses', min: 0.2, max: 4, start: 1.5, unit: 'LU', scale: 'linear' };
const GOAL_DB = { min: -6, max: 12 };

function useNames(): (id: string) => string {
  const names = useSong(
    useShallow((song) =>
      Object.fromEntries([...song.tracks, ...song.buses].map((strip) => [strip.id, stripName(strip)])),
    ),
  );
  return (id) => names[id] ?? '';
}

const KIND_TEXT: Partial<Record<RoomMove['kind'], string>> = { 'gives-way': 'gives way, ', boost: 'brought out, ' };
const moveText = ({ kind, band, gainDb }: RoomMove) =>
  band
    ? `${KIND_TEXT[kind] ?? ''}${typeName(band.type).toLowerCase()} ${bandSummary(band)}`
    : `level ${writeGain(gainDb)}`;

const WHY: Record<RoomLack['why'], (worst: string) => string> = {
  level: (worst) => `${worst} is too loud for it there, or it is too soft: a matter of levels`,
  limits: (worst) => `${worst} gives way as far as it may: allow more, or change a level`,
  crowd: (worst) => `many share its range, ${worst} most: a matter of the arrangement`,
};

/** Room for the whole mix: how far one may go, and the review of what is proposed. */
export function RoomPanel() {
  const desk = useDesk();
  const isOpen = useWholeRoom((store) => store.isOpen);
  const limits = useWholeRoom((store) => store.limits);
  const claims = useSong((song) => song.tracks.filter((track) => track.claims.length > 0).length);
  const without = useSong((song) => claimless(song).length);
  const chosen = useSelection((selection) => (selection.others.length > 0 ? selection.others.length + 1 : 0));
  // What is tried is gone when the panel is left.
  useEffect(() => () => leaveWholeRoom(desk), [desk]);
  return (
    <PanelBody aria-label="Room">
      <h2>Room for the whole mix</h2>
      <p>
        Ordinary moves that bring every claim to {writeGain(limits.goalDb)} over the rest, the one that wins most for
        what it takes first. Nothing is set before you say so.
      </p>
      <Limits />
      {isOpen ? (
        <Review />
      ) : (
        <>
          {claims === 0 && (
            <p role="status">
              No track has a claim yet: claim a range for those that are to be heard, and room is made there.
            </p>
          )}
          <PanelLine>
            {claims > 0 && (
              <Button $strong onPress={() => openWholeRoom(desk)}>
                Work it out{chosen > 0 && ` for the ${chosen} chosen`}
              </Button>
            )}
            {without > 0 && (
              <Button
                data-hint="Where each is to be heard, from what it is and its spectrum; one step of undo"
                onPress={() => void proposeClaims(desk, claimless(songOf(desk)))}
              >
                {claims === 0 ? 'Propose claims for all' : `Propose claims for the ${without} without`}
              </Button>
            )}
          </PanelLine>
        </>
      )}
    </PanelBody>
  );
}

/** One move after the other is heard, and taken or left. */
function Review() {
  const desk = useDesk();
  const { plan, progress, taken, at, isHeard, mayMove } = useWholeRoom();
  const place = useRef<HTMLDivElement>(null);
  // While it is worked out the keys stay here: a second Delete must not reach the chosen band.
  useEffect(() => {
    if (!plan) place.current?.focus();
  }, [plan]);
  const act: Readonly<Record<string, (moves: readonly RoomMove[]) => void>> = {
    ArrowDown: () => lookAt(desk, at + 1),
    ArrowUp: () => lookAt(desk, at - 1),
    h: () => hearMove(desk, !isHeard),
    Enter: (moves) => decide(desk, moves[at], true),
    Delete: (moves) => decide(desk, moves[at], false),
  };
  return (
    <Place
      ref={place}
      role="group"
      aria-label="Moves to look through"
      tabIndex={-1}
      onKeyDown={(event) => {
        const isHere = event.target === event.currentTarget || (event.target as Element).role === 'list';
        const run = act[isDeleteKey(event) ? 'Delete' : plainKey(event)];
        if (!isHere || !run || event.ctrlKey || event.metaKey || event.altKey || event.shiftKey) return;
        event.preventDefault();
        event.stopPropagation();
        if (plan && plan.moves.length > 0) run(plan.moves);
      }}
    >
      {mayMove && <p>Only the {mayMove.length} chosen tracks are changed.</p>}
      {!plan && <Progress label="Working it out" value={progress} />}
      {plan && plan.moves.length === 0 && (
        <p role="status">
          {taken.length > 0 ? 'Nothing more is proposed.' : 'Every claim stands clear, or nothing here would help.'}
        </p>
      )}
      {plan && plan.moves.length > 0 && <Moves key={plan.moves[0].key} moves={plan.moves} at={at} isHeard={isHeard} />}
      {plan && <Lacked lacks={plan.lacks} />}
      {plan && taken.length > 0 && <Taken plan={plan} />}
      <PanelLine>
        <Button $strong isDisabled={taken.length === 0} onPress={() => setWholeRoom(desk)}>
          Set {taken.length === 1 ? '1 move' : `${taken.length} moves`}
        </Button>
        {plan && plan.moves.length > 1 && (
          <TextButton onPress={() => takeAll(desk)}>Take all {plan.moves.length}</TextButton>
        )}
        <Button onPress={() => leaveWholeRoom(desk)}>Leave it all</Button>
      </PanelLine>
      {plan && plan.moves.length > 0 && <p>↑ ↓ look at a move, H hears it, Enter takes it, Delete leaves it.</p>}
    </Place>
  );
}

function Lacked({ lacks }: { lacks: readonly RoomLack[] }) {
  const nameOf = useNames();
  if (lacks.length === 0) return null;
  return (
    <>
      <b>Not reached</b>
      <Lacks>
        {lacks.map(({ trackId, clearanceDb, worstId, why }) => (
          <li key={trackId}>
            {nameOf(trackId)} <span data-sound>{writeGain(clearanceDb)}</span>: {WHY[why](nameOf(worstId))}.
          </li>
        ))}
      </Lacks>
    </>
  );
}

/** What the moves that were taken have done so far. */
function Taken({ plan }: { plan: RoomPlan }) {
  const nameOf = useNames();
  const { first, taken, left } = useWholeRoom();
  const now = new Map(plan.clearances.map(({ trackId, beforeDb }) => [trackId, beforeDb]));
  const changes = first.flatMap(({ trackId, beforeDb }) => {
    const db = now.get(trackId) ?? beforeDb;
    return Math.abs(db - beforeDb) < 0.5 ? [] : [`${nameOf(trackId)} ${writeGain(beforeDb)} → ${writeGain(db)}`];
  });
  return (
    <p role="status" data-sound>
      {taken.length} taken, {left.length} left{changes.length > 0 && `: ${changes.join(', ')}`}
    </p>
  );
}

function Limits() {
  const desk = useDesk();
  const limits = useWholeRoom((store) => store.limits);
  const figures = [
    { figure: MOST_CUT, field: 'mostCutDb' },
    { figure: MOST_MOVES, field: 'mostMoves' },
    { figure: MOST_LOSS, field: 'mostLossLu' },
  ] as const;
  const switches = [
    { field: 'givingWay', name: 'Bands that give way' },
    { field: 'boosts', name: 'Small boosts' },
    { field: 'levels', name: 'Levels' },
  ] as const;
  return (
    <Folded>
      <summary>
        Up to {writeGain(limits.goalDb)}, cuts to {writeNumber(limits.mostCutDb)} dB, {limits.mostMoves} moves a track
      </summary>
      <FigureRow>
        <span>Wanted</span>
        <ValueField
          label="Wanted clearance of every claim"
          shown={writeGain(limits.goalDb)}
          parse={(text) => parseGain(text, GOAL_DB)}
          example="3, −1.5 dB"
          onCommit={(goalDb) => limitRoom(desk, { goalDb })}
        />
      </FigureRow>
      {figures.map(({ figure, field }) => (
        <FigureRow key={field}>
          <span>{figure.label}</span>
          <ValueField
            label={figure.label}
            shown={writeFigure(limits[field], figure)}
            parse={(text) => parseFigure(text, figure)}
            example={`${figure.min} to ${figure.max} ${figure.unit}`}
            onCommit={(value) => limitRoom(desk, { [field]: field === 'mostMoves' ? Math.round(value) : value })}
          />
        </FigureRow>
      ))}
      <PanelLine>
        {switches.map(({ field, name }) => (
          <ToggleButton key={field} isSelected={limits[field]} onChange={(isOn) => limitRoom(desk, { [field]: isOn })}>
            {name}
          </ToggleButton>
        ))}
      </PanelLine>
    </Folded>
  );
}

function Moves({ moves, at, isHeard }: { moves: readonly RoomMove[]; at: number; isHeard: boolean }) {
  const desk = useDesk();
  const list = useRef<HTMLUListElement>(null);
  // The list has the keyboard: it is gone through with one hand on the arrows.
  useEffect(() => list.current?.focus(), []);
  return (
    <List ref={list} role="list" tabIndex={0} aria-label="Moves, what wins most first">
      {moves.map((move, i) => (
        <Move
          key={move.key}
          move={move}
          isLookedAt={i === at}
          isHeard={i === at && isHeard}
          onLook={() => lookAt(desk, i)}
        />
      ))}
    </List>
  );
}

function Move(props: { move: RoomMove; isLookedAt: boolean; isHeard: boolean; onLook: () => void }) {
  const { move, isLookedAt, isHeard, onLook } = props;
  const desk = useDesk();
  const nameOf = useNames();
  const { trackId, forId, band, wins, lossLu } = move;
  const about = `${nameOf(trackId)}: ${moveText(move)}`;
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (isLookedAt) row.current?.scrollIntoView({ block: 'nearest' });
  }, [isLookedAt]);
  return (
    <li
      ref={row}
      aria-label={about}
      aria-current={isLookedAt}
      onClick={onLook}
      onPointerEnter={(event) => band && showCrosshair(desk, { hz: band.frequencyHz, clientY: event.clientY })}
      onPointerLeave={() => showCrosshair(desk, null)}
    >
      <b>{nameOf(trackId)}</b>
      <span>{trackId === forId ? 'for itself' : `for ${nameOf(forId)}`}</span>
      <span data-wide>{moveText(move)}</span>
      <small data-sound data-wide>
        {wins
          .slice(0, 3)
          .map((win) => `${nameOf(win.trackId)} ${writeGain(win.beforeDb)} → ${writeGain(win.afterDb)}`)
          .join(', ')}
        {Math.abs(lossLu) >= 0.05 && `; ${lossLu > 0 ? 'takes' : 'adds'} ${writeNumber(Math.abs(lossLu))} LU`}
      </small>
      <FindingActions>
        <TextButton
          aria-pressed={isHeard}
          aria-label={isHeard ? `Without it: ${about}` : `Hear it: ${about}`}
          data-hint="With it and without it, at matched loudness · H"
          onPress={() => {
            onLook();
            hearMove(desk, !isHeard);
          }}
        >
          {isHeard ? 'Without it' : 'Hear it'}
        </TextButton>
        <TextButton aria-label={`Take it: ${about}`} data-hint="Enter" onPress={() => decide(desk, move, true)}>
          Take it
        </TextButton>
        <TextButton aria-label={`Leave it: ${about}`} data-hint="Delete" onPress={() => decide(desk, move, false)}>
          Leave it
        </TextButton>
      </FindingActions>
    </li>
  );
}

const Place = styled.div`
  outline: none;
`;
const List = styled(FindingRows)`
  max-height: 46vh;
  overflow-y: auto;
  outline: none;
  &:focus-visible {
    box-shadow: inset 2px 0 var(--claim);
  }
  > li[aria-current='true'] {
    background: var(--selected);
  }
  [data-wide] {
    grid-column: 1 / 3;
  }
`;
const Lacks = styled.ul`
  margin: 3px 0 8px;
  padding: 0 0 0 16px;
  color: var(--soft);
  font-size: 12.5px;
`;
