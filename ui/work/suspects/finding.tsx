'use client';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { writeTime } from '@/core/formats';
import type { FrequencyBand } from '@/core/measure';
import type { BandSettings } from '@/core/song';
import { FindingActions } from '../../kit/controls/panel';
import { TextButton } from '../../kit/controls/button';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { useDesk } from '../../window/desk/desk';
import { useSession } from '../../window/sound/session-store';
import { endFinding, hearFinding, takeFinding, useHeardFinding } from './hear-finding';

/** Something that was found in a recording, as it is told. */
interface Told {
  trackId: string;
  finding: FrequencyBand;
  name: string;
  place: string;
  /** Where the crosshair points while one points at it, Hz. */
  atHz: number;
  /** What it is, and how sure that is. */
  facts: readonly [string, string];
  /** How much of it there is; not told while the eyes are off. */
  measured?: string;
  /** When it is there, seconds: one goes there by a press. */
  moments?: readonly number[];
  /** True where there are more of them. */
  hasMore?: boolean;
  foundBy: string;
  /** What "show why" shows. */
  picture: ReactNode;
  /** What answers it, to begin with, and what that is for; null where no filter does. */
  answer: (() => BandSettings[]) | null;
  answerHint: string;
  note: string;
}

const WHOLE_ROW = { gridColumn: '1 / 3' };

/** A moment is heard from so long before it on. */
const LEAD_SECONDS = 0.5;

/** A finding in a list: it is heard before it is taken. */
export function Finding({
  trackId,
  finding,
  name,
  place,
  atHz,
  facts,
  measured,
  moments = [],
  hasMore = false,
  foundBy,
  picture,
  answer,
  ...taken
}: Told) {
  const desk = useDesk();
  const isHeard = useHeardFinding(({ heard }) => heard === finding);
  // Heard once at least: only then it can be taken.
  const [isKnown, setKnown] = useState(false);
  const [isShown, setShown] = useState(false);
  const label = `${name}, ${place}`;
  return (
    <li
      aria-label={label}
      onPointerEnter={(event) => showCrosshair(desk, { hz: atHz, clientY: event.clientY })}
      onPointerLeave={() => showCrosshair(desk, null)}
    >
      <b>{name}</b>
      <span>{place}</span>
      <small>{facts[0]}</small>
      <small>{facts[1]}</small>
      {measured && (
        <small data-sound style={WHOLE_ROW}>
          {measured}
        </small>
      )}
      {moments.length > 0 && (
        <Moments>
          at
          {moments.map((seconds) => (
            <TextButton
              key={seconds}
              aria-label={`Go to ${writeTime(seconds)}: ${label}`}
              data-hint="Goes to right before it"
              onPress={() => useSession.of(desk).seek(Math.max(0, seconds - LEAD_SECONDS))}
            >
              {writeTime(seconds)}
            </TextButton>
          ))}
          {hasMore && '…'}
        </Moments>
      )}
      <small style={WHOLE_ROW}>Found by: {foundBy}.</small>
      {isShown && picture}
      <FindingActions>
        <TextButton
          aria-label={isHeard ? `End hearing ${label}` : `Hear it: ${label}`}
          data-hint="Only its range of this track is heard"
          onPress={() => {
            if (isHeard) endFinding(desk);
            else {
              hearFinding(desk, trackId, finding);
              setKnown(true);
            }
          }}
        >
          {isHeard ? 'End hearing' : 'Hear it'}
        </TextButton>
        {answer && (
          <TextButton
            aria-label={`Take it: ${label}`}
            isDisabled={!isKnown}
            data-hint={isKnown ? taken.answerHint : 'Hear it first'}
            onPress={() => takeFinding(desk, trackId, answer(), taken.note)}
          >
            Take it
          </TextButton>
        )}
        <TextButton
          aria-expanded={isShown}
          aria-label={`Show why: ${label}`}
          data-hint="The levels that it was found by"
          onPress={() => setShown(!isShown)}
        >
          Show why
        </TextButton>
      </FindingActions>
    </li>
  );
}

const Moments = styled.small`
  grid-column: 1 / 3;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  column-gap: 8px;
`;
