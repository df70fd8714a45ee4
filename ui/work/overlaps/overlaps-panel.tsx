'use client';
import { useEffect } from 'react';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { bandSummary, parseGain, writeFrequency, writeGain, writeLength } from '@/core/formats';
import type { Overlap } from '@/core/mix';
import { findStrip, type BandSettings } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { Button, TextButton, ToggleButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { FindingActions, FindingRows, PanelBody, PanelLine } from '../../kit/controls/panel';
import { ShareSlider } from '../../kit/controls/share-slider';
import { ValueField } from '../../kit/controls/value-field';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { useMix } from '../../window/sound/mix';
import { typeName } from '../../kit/signs/type-names';
import { useSong } from '../../window/song/song-store';
import { stripName, useSelection } from '../../window/song/selection';
import {
  endHearing,
  endRoom,
  forgetLeft,
  hearOverlap,
  isSame,
  leaveOverlap,
  tryRoom,
  useOpenOverlaps,
  useOverlapsStore,
  MOST_TARGET_DB,
} from './overlaps-store';
import { songOf } from '../../window/song/live-song';

const SHOWN = 12;
const TARGET_RANGE_DB = { min: -12, max: MOST_TARGET_DB };

const rangeText = ({ lowHz, highHz }: Pick<Overlap, 'lowHz' | 'highHz'>) =>
  `${writeFrequency(Number(lowHz.toPrecision(3)))} to ${writeFrequency(Number(highHz.toPrecision(3)))}`;

/** Who is in whose way in the loop, the worst first, and what can be done about it. */
export function OverlapsPanel() {
  const desk = useDesk();
  const overlaps = useOpenOverlaps();
  const revision = useMix((mix) => mix.revision);
  const left = useSong((song) => song.leftOverlaps.length);
  const isLooped = useSong((song) => song.loop?.enabled ?? false);
  const { heard, room } = useOverlapsStore();
  // What is tried is gone when the panel is left.
  useEffect(() => () => endRoom(desk, false), [desk]);
  return (
    <PanelBody aria-label="Overlaps">
      <Heading>
        <h2>Overlaps</h2>
        <span>
          {overlaps.length} in {isLooped ? 'this loop' : 'the song'}
        </span>
      </Heading>
      {heard && (
        <PanelLine role="status">
          <span>Only {rangeText(heard.overlap)} of the two is heard.</span>
          <TextButton onPress={() => endHearing(desk)}>Hear everything again</TextButton>
        </PanelLine>
      )}
      {room && <Room />}
      {overlaps.length === 0 && (
        <p>
          {revision === 0 ? 'The recordings are being measured …' : 'No two tracks are strong at once in one range.'}
        </p>
      )}
      <FindingRows aria-label="Overlaps, the worst first">
        {overlaps.slice(0, SHOWN).map((overlap) => (
          <Row
            key={`${overlap.quieterId} ${overlap.louderId} ${Math.round(Math.log2(overlap.lowHz) * 3)}`}
            overlap={overlap}
            isHeard={heard !== null && isSame(heard.overlap, overlap)}
          />
        ))}
      </FindingRows>
      {overlaps.length > SHOWN && <p>{overlaps.length - SHOWN} smaller ones are not listed.</p>}
      {left > 0 && (
        <TextButton data-hint="They were left as they are" onPress={() => forgetLeft(desk)}>
          List the {left} again that {left === 1 ? 'was' : 'were'} left
        </TextButton>
      )}
      <p>
        <a style={{ color: 'var(--claim)' }} href="/how-clearance-is-measured" target="_blank" rel="noreferrer">
          How it is measured
        </a>
      </p>
    </PanelBody>
  );
}

function Row({ overlap, isHeard }: { overlap: Overlap; isHeard: boolean }) {
  const desk = useDesk();
  const names = useSong(
    useShallow((song) =>
      [overlap.quieterId, overlap.louderId].map((id) => {
        const strip = findStrip(song, id);
        return strip ? stripName(strip) : '';
      }),
    ),
  );
  const nameOf = (id: string) => names[id === overlap.quieterId ? 0 : 1];
  const { quieterId, louderId, lostShare, lowHz, highHz, passages, betterEarDb } = overlap;
  const about = `${nameOf(quieterId)} under ${nameOf(louderId)}, ${rangeText(overlap)}`;
  return (
    <li
      aria-label={about}
      onPointerEnter={(event) => showCrosshair(desk, { hz: Math.sqrt(lowHz * highHz), clientY: event.clientY })}
      onPointerLeave={() => showCrosshair(desk, null)}
    >
      <Name
        type="button"
        onClick={() => useSelection.of(desk).chooseStrip(quieterId)}
        data-hint="Brings it to the bench"
      >
        {nameOf(quieterId)}
      </Name>
      <span>{rangeText(overlap)}</span>
      <small>
        under {nameOf(louderId)}
        {betterEarDb >= 0.5 && `, ${writeGain(betterEarDb)} in the better ear`}
      </small>
      <Lost
        data-sound
        data-hint="How much of all its strength the quieter one loses here, of what is its own, while both are strong"
      >
        loses {Math.round(lostShare * 100)} %
      </Lost>
      <FindingActions>
        <TextButton
          aria-label={isHeard ? `End hearing ${about}` : `Hear it: ${about}`}
          data-hint={`Loops ${passages[0] ? `at ${writeLength(passages[0].startSeconds)}` : 'here'}, solos the two, lets only this range be heard`}
          onPress={() => (isHeard ? endHearing(desk) : hearOverlap(desk, overlap))}
        >
          {isHeard ? 'End hearing' : 'Hear it'}
        </TextButton>
        <TextButton
          aria-label={`Make room: ${about}`}
          data-hint="Proposes moves: seen and heard at once, kept only when you say so"
          onPress={() => void tryRoom(desk, overlap)}
        >
          Make room
        </TextButton>
        <TextButton
          aria-label={`Leave it: ${about}`}
          data-hint="It is not listed again"
          onPress={() => leaveOverlap(desk, overlap)}
        >
          Leave it
        </TextButton>
      </FindingActions>
    </li>
  );
}

const moveText = (band: BandSettings) => `${typeName(band.type)} ${bandSummary(band)}`;
const clearanceText = (db: number | null) => (db === null ? 'not played here' : writeGain(db));

/** Moves that are tried: previewed, set by one slider, kept as ordinary bands. */
function Room() {
  const desk = useDesk();
  const strip = (id: string) => findStrip(songOf(desk), id);
  const nameOf = (id: string) => {
    const found = strip(id);
    return found ? stripName(found) : '';
  };
  const room = useOverlapsStore((store) => store.room)!;
  const { overlap, moves, strength, withBoost, targetDb, beforeDb, afterDb } = room;
  const { ownerId } = moves;
  const other = nameOf(moves.yielderId);
  const owner = nameOf(ownerId);
  return (
    <Tried role="group" aria-label="Make room">
      <b>
        Room for {owner}, {rangeText(overlap)}
      </b>
      <ul>
        <li>
          {other}: {moveText(moves.cut)}
        </li>
        {moves.boost && (
          <li>
            {owner}: {moveText(moves.boost)}
          </li>
        )}
      </ul>
      <p data-sound>
        {owner} over {other} there: {clearanceText(beforeDb)} → <b>{clearanceText(afterDb)}</b>
      </p>
      {strength === 0 && <p role="status">{owner} stands clear already: nothing needs to give way.</p>}
      {strength === 1 && afterDb !== null && afterDb < targetDb && (
        <p role="status">These moves alone do not reach {writeGain(targetDb)}.</p>
      )}
      <ShareSlider
        label="How much"
        value={strength}
        onChange={(value) => void tryRoom(desk, overlap, { strength: value, ownerId, withBoost, targetDb })}
      />
      <FigureRow>
        <span>Wanted</span>
        <ValueField
          label="Wanted clearance"
          shown={writeGain(targetDb)}
          parse={(text) => parseGain(text, TARGET_RANGE_DB)}
          example="3, −1.5 dB"
          onCommit={(next) => void tryRoom(desk, overlap, { ownerId, withBoost, targetDb: next })}
          onStep={(direction) =>
            void tryRoom(desk, overlap, {
              ownerId,
              withBoost,
              targetDb: Math.min(12, Math.max(-12, targetDb + direction)),
            })
          }
        />
      </FigureRow>
      <PanelLine>
        <ToggleButton
          isSelected={withBoost}
          data-hint="A small wide boost, so that less has to be cut"
          onChange={(next) => void tryRoom(desk, overlap, { ownerId, withBoost: next, targetDb })}
        >
          Bring {owner} out too
        </ToggleButton>
        <TextButton onPress={() => void tryRoom(desk, overlap, { ownerId: moves.yielderId, withBoost, targetDb })}>
          Room for {other} instead
        </TextButton>
      </PanelLine>
      <PanelLine>
        <Button $strong onPress={() => endRoom(desk, true)} isDisabled={strength === 0}>
          Keep the moves
        </Button>
        <Button onPress={() => endRoom(desk, false)}>Take them back</Button>
      </PanelLine>
    </Tried>
  );
}

const Heading = styled.div`
  display: flex;
  align-items: baseline;
  gap: 10px;
  span {
    color: var(--soft);
  }
`;
const Name = styled.button`
  overflow: hidden;
  padding: 0;
  border: 0;
  background: none;
  font-weight: 600;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: default;
`;
const Lost = styled.span`
  color: var(--accent);
  font-weight: 500;
  text-align: right;
`;
const Tried = styled.div`
  margin: 6px -16px;
  padding: 8px 16px 6px;
  border-block: 1px solid var(--rule);
  background: var(--selected);
  ul {
    margin: 3px 0;
    padding: 0 0 0 16px;
  }
`;
