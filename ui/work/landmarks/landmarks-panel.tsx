'use client';
import { useState } from 'react';
import styled from 'styled-components';
import { parseFrequency, possible, writeFrequency } from '@/core/formats';
import { newId, type Landmark } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { Button, TextButton, ToggleButton } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { PanelBody, PanelLine } from '../../kit/controls/panel';
import { TextField } from '../../kit/controls/text-field';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { stripName, useSelection, useStripFacts } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { changeLandmarks, forgetOwnLandmarks, useChosenLandmarks, useLandmarks } from './landmarks-store';

const rangeOf = ({ lowHz, highHz }: Landmark) => `${writeFrequency(lowHz)} to ${writeFrequency(highHz)}`;

/** What usually lies where, for the chosen track's part. */
export function LandmarksPanel() {
  const desk = useDesk();
  const strip = useStripFacts(useSelection((selection) => selection.stripId));
  const landmarks = useChosenLandmarks();
  const isOwn = useSong((song) => song.landmarks !== null);
  const { isShown, show } = useLandmarks();
  const [edited, setEdited] = useState<Landmark | null>(null);
  const part = strip.part ?? '';
  return (
    <PanelBody aria-label="Landmarks">
      <h2>Landmarks</h2>
      <p>
        {part
          ? `Common practice for a part called “${part}”.`
          : `Common practice. Say what ${stripName(strip)} is, under Track, for more.`}
      </p>
      <PanelLine>
        <ToggleButton isSelected={isShown} onChange={show} data-hint="Under the ruler, for the chosen track">
          On the ruler
        </ToggleButton>
        <TextButton
          onPress={() =>
            setEdited({ id: newId(10), parts: part ? [part] : [], lowHz: 200, highHz: 400, what: '', move: '' })
          }
        >
          + Add one
        </TextButton>
      </PanelLine>
      <List>
        {landmarks.map((landmark) => (
          <li
            key={landmark.id}
            onPointerEnter={(event) =>
              showCrosshair(desk, { hz: Math.sqrt(landmark.lowHz * landmark.highHz), clientY: event.clientY })
            }
            onPointerLeave={() => showCrosshair(desk, null)}
          >
            <b>{landmark.what}</b>
            <span>{rangeOf(landmark)}</span>
            <i>{landmark.move}</i>
            <TextButton aria-label={`Change “${landmark.what}”`} onPress={() => setEdited(landmark)}>
              Change…
            </TextButton>
          </li>
        ))}
      </List>
      {isOwn && <TextButton onPress={() => forgetOwnLandmarks(desk)}>Back to common practice</TextButton>}
      {edited && <LandmarkDialog landmark={edited} onClose={() => setEdited(null)} />}
    </PanelBody>
  );
}

function LandmarkDialog({ landmark, onClose }: { landmark: Landmark; onClose: () => void }) {
  const desk = useDesk();
  const [what, setWhat] = useState(landmark.what);
  const [move, setMove] = useState(landmark.move);
  const [parts, setParts] = useState(landmark.parts.join(', '));
  const [low, setLow] = useState(writeFrequency(landmark.lowHz));
  const [high, setHigh] = useState(writeFrequency(landmark.highHz));
  const [lowHz, highHz] = [low, high].map((text) => possible(parseFrequency(text)));
  const problem =
    what.trim() === ''
      ? 'Say what lies there.'
      : lowHz === null || highHz === null
        ? 'Write frequencies like 250, 2.5k or A4.'
        : lowHz > highHz
          ? 'The lower edge lies above the upper one.'
          : null;
  const keep = () => {
    if (problem || lowHz === null || highHz === null) return;
    const next: Landmark = {
      ...landmark,
      what: what.trim().slice(0, 80),
      move: move.trim().slice(0, 120),
      parts: parts
        .split(',')
        .map((word) => word.trim().slice(0, 40))
        .filter(Boolean)
        .slice(0, 12),
      lowHz,
      highHz,
    };
    changeLandmarks(
      desk,
      (all) =>
        all.some(({ id }) => id === next.id)
          ? all.map((landmark) => (landmark.id === next.id ? next : landmark))
          : [...all, next],
      'Change a landmark',
    );
    onClose();
  };
  return (
    <Dialog title="Landmark" isOpen onClose={onClose}>
      <Fields
        onSubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <TextField label="What lies there" value={what} onChange={setWhat} maxLength={80} autoFocus />
        <TextField label="From" value={low} onChange={setLow} />
        <TextField label="To" value={high} onChange={setHigh} />
        <TextField label="For parts with one of these words; none for every part" value={parts} onChange={setParts} />
        <TextField label="What is usually done" value={move} onChange={setMove} maxLength={120} />
        {problem && <p role="alert">{problem}</p>}
        <DialogActions>
          <Button
            onPress={() => {
              changeLandmarks(desk, (all) => all.filter(({ id }) => id !== landmark.id), 'Remove a landmark');
              onClose();
            }}
          >
            Remove
          </Button>
          <Button onPress={onClose}>Leave it</Button>
          <Button $strong type="submit" isDisabled={problem !== null}>
            Keep
          </Button>
        </DialogActions>
      </Fields>
    </Dialog>
  );
}

const Fields = styled.form`
  display: grid;
  gap: 8px;
  p {
    color: var(--accent);
  }
`;
const List = styled.ul`
  margin: 4px 0 8px;
  padding: 0;
  list-style: none;
  li {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 0 8px;
    padding: 5px 0;
    border-bottom: 1px solid var(--grid);
  }
  button {
    justify-self: end;
  }
  b {
    font-weight: 600;
  }
  i {
    color: var(--soft);
    font-style: normal;
  }
`;
