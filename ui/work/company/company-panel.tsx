'use client';
import styled from 'styled-components';
import { parseGain, writeNumber } from '@/core/formats';
import { useDesk } from '../../window/desk/desk';
import { Button, TextButton, ToggleButton } from '../../kit/controls/button';
import { Checkbox } from '../../kit/controls/checkbox';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { PanelBody, PanelLine, PanelRows } from '../../kit/controls/panel';
import { ValueField } from '../../kit/controls/value-field';
import { stepDb } from '../../kit/gestures/steps';
import { forgetHeld } from '../../window/sound/live';
import { soloCompany, soloPair } from './solo';
import { TILT_RANGE_DB, useCompany } from './company-store';
import { stripName, useSelection, useStripFacts, useTrackList } from '../../window/song/selection';
import { LineSample } from '../../kit/signs/inks';

const STAGES = [
  { id: 'after', name: 'after their chains' },
  { id: 'before', name: 'before their chains' },
] as const;
const SPEEDS = [
  { id: 'fast', name: 'fast' },
  { id: 'slow', name: 'slow' },
] as const;

/** Which tracks' spectra are drawn behind the bench's curve, and how. */
export function CompanyPanel() {
  const desk = useDesk();
  const stripId = useSelection((selection) => selection.stripId);
  const strip = useStripFacts(stripId);
  const tracks = useTrackList();
  const { stripIds, stage, speed, isHolding, tiltDb, toggle, set, all, clear } = useCompany();
  const others = tracks.filter(({ id }) => id !== strip.id);
  return (
    <PanelBody aria-label="Company">
      <h2>Company</h2>
      <p>Spectra behind the curve of {stripName(strip)}:</p>
      <PanelRows aria-label="Tracks in company">
        {others.map((track) => (
          <li key={track.id}>
            <Checkbox
              label={`${track.name} in company`}
              hint="Draws its spectrum on the bench"
              isChecked={stripIds.includes(track.id)}
              onToggle={() => toggle(track.id)}
            >
              <Name>{track.name}</Name>
            </Checkbox>
            <LineSample ink={track.ink} />
          </li>
        ))}
      </PanelRows>
      <PanelLine>
        <TextButton onPress={all}>All of them</TextButton>
        {stripIds.length > 0 && <TextButton onPress={clear}>None</TextButton>}
      </PanelLine>
      <FigureRow>
        <span>Drawn</span>
        <Choice
          label="Company is drawn"
          value={stage}
          options={STAGES}
          width={150}
          onChange={(next) => set({ stage: next })}
        />
      </FigureRow>
      <FigureRow>
        <span>Live</span>
        <Choice
          label="Live spectra"
          value={speed}
          options={SPEEDS}
          width={76}
          onChange={(next) => set({ speed: next })}
        />
      </FigureRow>
      <FigureRow>
        <span>Tilt</span>
        <ValueField
          label="Tilt of the spectra"
          shown={`${writeNumber(tiltDb)} dB/oct`}
          parse={(text) => parseGain(text.replace(/\s*db\s*\/\s*oct\.?$/i, ''), TILT_RANGE_DB)}
          example="4.5, 0 to 6 dB/oct"
          width={90}
          onCommit={(next) => set({ tiltDb: next })}
          onStep={(direction, size) => set({ tiltDb: stepDb(tiltDb, direction, size, TILT_RANGE_DB) })}
        />
      </FigureRow>
      <PanelLine>
        <ToggleButton
          isSelected={isHolding}
          data-hint="Keeps the highest live levels in sight"
          onChange={(next) => {
            forgetHeld(desk);
            set({ isHolding: next });
          }}
        >
          Hold peaks
        </ToggleButton>
        {isHolding && <TextButton onPress={() => forgetHeld(desk)}>Begin anew</TextButton>}
      </PanelLine>
      <PanelLine role="group" aria-label="Solo">
        <Button data-hint="This track and the first of its company · Alt S" onPress={() => soloPair(desk, strip.id)}>
          Solo the pair
        </Button>
        <Button data-hint="This track and all its company" onPress={() => soloCompany(desk, strip.id)}>
          Solo all of them
        </Button>
      </PanelLine>
    </PanelBody>
  );
}

const Name = styled.span`
  overflow: hidden;
  text-overflow: ellipsis;
`;
