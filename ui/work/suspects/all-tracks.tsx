import styled from 'styled-components';
import { Button } from '../../kit/controls/button';
import { Folded, PanelRows } from '../../kit/controls/panel';
import { Progress } from '../../kit/controls/progress';
import { useDesk } from '../../window/desk/desk';
import { useSelection } from '../../window/song/selection';
import { lookThroughAll, showAllSuspects, stopLooking, useAllSuspects, type TrackSuspect } from './suspects-store';
import { KINDS, placeOf } from './words';

/** What is less sure is only told where its track is chosen. */
const LEAST_SURENESS = 0.5;
const MOST_SHOWN = 40;

/** What stands out in the recordings of all tracks, as far as they have been looked through. */
export function OfAllTracks() {
  const desk = useDesk();
  const { found, lookedThrough, tracks, failed, lookingAt, isShown } = useAllSuspects(LEAST_SURENESS);
  if (tracks < 2) return null;
  const isWhole = lookedThrough === tracks;
  return (
    <Folded open={isShown} onToggle={({ currentTarget }) => showAllSuspects(desk, currentTarget.open)}>
      <summary>In all tracks</summary>
      <p role="status">
        {isWhole
          ? `All ${tracks} recordings are looked through.`
          : `${lookedThrough} of ${tracks} recordings are looked through${lookingAt ? `; now ${lookingAt} …` : '.'}`}
        {isWhole && found.length === 0 && ' Nothing in them is likely to be wrong.'}
      </p>
      {lookingAt && <Progress label="Recordings that are looked through" value={lookedThrough / tracks} />}
      {failed.length > 0 && <p role="alert">Not looked through: {failed.join(', ')}.</p>}
      {found.length > 0 && (
        <Rows aria-label="Suspects of all tracks, the surest first">
          {found.slice(0, MOST_SHOWN).map((one) => (
            <Row key={`${one.track.id} ${one.suspect.kind} ${one.suspect.frequencyHz}`} {...one} />
          ))}
        </Rows>
      )}
      {found.length > MOST_SHOWN && <p>And {found.length - MOST_SHOWN} that are less sure.</p>}
      {!isWhole &&
        (lookingAt ? (
          <Button onPress={() => stopLooking(desk)}>Stop after this one</Button>
        ) : (
          <Button onPress={() => void lookThroughAll(desk)}>
            {lookedThrough > 1 ? 'Look through the others' : 'Look through all tracks'}
          </Button>
        ))}
    </Folded>
  );
}

function Row({ track, suspect }: TrackSuspect) {
  const desk = useDesk();
  const isChosen = useSelection(({ stripId }) => stripId === track.id);
  return (
    <li>
      <Name
        type="button"
        aria-current={isChosen || undefined}
        data-hint="Brings it to the bench, with what was found"
        onClick={() => useSelection.of(desk).chooseStrip(track.id)}
      >
        {track.name}
        <small>
          {KINDS[suspect.kind].name}, {placeOf(suspect)}
        </small>
      </Name>
      <small>{Math.round(100 * suspect.sureness)} %</small>
    </li>
  );
}

const Rows = styled(PanelRows)`
  max-height: 22vh;
  overflow-y: auto;
`;
const Name = styled.button`
  display: grid;
  padding: 4px 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  font-weight: 600;
  text-align: left;
  cursor: default;
  small {
    overflow: hidden;
    font-weight: 400;
    text-overflow: ellipsis;
  }
  &:hover,
  &[aria-current] {
    color: var(--claim);
  }
`;
