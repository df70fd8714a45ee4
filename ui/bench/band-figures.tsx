'use client';
import { memo, useId } from 'react';
import styled from 'styled-components';
import { HIGHEST_ORDER } from '@/core/filters';
import {
  parseFrequency,
  parseGain,
  parseSlope,
  parseWidth,
  writeFrequency,
  writeGain,
  writeNote,
  writeNumber,
  writeSlope,
  writeWidth,
} from '@/core/formats';
import { GAIN_RANGE_DB, hasGain, hasQ, isPassFilter, newBandSettings, type Band, type BandType } from '@/core/song';
import { runCommand } from '../commands';
import { Button, Choice, CommittedText, FigureRow, TextButton, TextValue } from '../controls';
import { stepDb, stepHz, stepQ } from '../gestures';
import { TYPE_NAMES } from '../signs';
import { changeBand, changeBandByKey, chosenBand, useChosenBand, useChosenStrip, type BandChanges } from '../song';
import { SERIF } from '../theme';

/** The chosen band in figures. */
export function BandFigures() {
  const strip = useChosenStrip();
  const band = useChosenBand();
  if (!band) {
    return (
      <Side aria-label="Band">
        <Head>
          <h2>Band</h2>
        </Head>
        <p>None is chosen. Click a handle or a line of the list.</p>
      </Side>
    );
  }
  return <Figures key={band.id} stripId={strip.id} band={band} />;
}

function Figures({ stripId, band }: { stripId: string; band: Band }) {
  const noteId = useId();
  const change = (label: string) => (changes: BandChanges) => changeBand(stripId, band.id, changes, label);
  const byKey = (changes: BandChanges) => changeBandByKey(stripId, band.id, changes, `Change band ${band.letter}`);
  return (
    <Side aria-label={`Band ${band.letter}`}>
      <Head>
        <h2>Band {band.letter}</h2>
        <KindChoice type={band.type} />
        <OnOff letter={band.letter} isOn={band.enabled} />
      </Head>
      <FigureRow>
        <span>{isPassFilter(band.type) ? 'Corner' : 'Frequency'}</span>
        <TextValue
          label={isPassFilter(band.type) ? 'Corner' : 'Frequency'}
          shown={writeFrequency(band.frequencyHz)}
          parse={parseFrequency}
          example="2.5k, 440 Hz or A4"
          onCommit={(frequencyHz) => change('Frequency')({ frequencyHz })}
          onStep={(direction, size) => byKey({ frequencyHz: stepHz(band.frequencyHz, direction, size) })}
        />
        <i>{isPassFilter(band.type) ? 'at −3 dB' : writeNote(band.frequencyHz)}</i>
      </FigureRow>
      {hasGain(band.type) && (
        <FigureRow>
          <span>Gain</span>
          <TextValue
            label="Gain"
            shown={writeGain(band.gainDb)}
            parse={(text) => parseGain(text, GAIN_RANGE_DB)}
            example="−3, +2.5 dB"
            onCommit={(gainDb) => change('Gain')({ gainDb })}
            onStep={(direction, size) => byKey({ gainDb: stepDb(band.gainDb, direction, size, GAIN_RANGE_DB) })}
          />
        </FigureRow>
      )}
      {hasQ(band.type) && (
        <FigureRow>
          <span>Width</span>
          <TextValue
            label="Width"
            shown={writeWidth(band.q)}
            parse={parseWidth}
            example="0.7 oct or Q 2.1"
            onCommit={(q) => change('Width')({ q })}
            onStep={(direction, size) => byKey({ q: stepQ(band.q, direction, size) })}
          />
          <i>Q {writeNumber(band.q, 2)}</i>
        </FigureRow>
      )}
      {isPassFilter(band.type) && (
        <FigureRow>
          <span>Slope</span>
          <TextValue
            label="Slope"
            shown={writeSlope(band.order)}
            parse={(text) => parseSlope(text, HIGHEST_ORDER)}
            example="18, or order 3 (6 to 48 dB/oct in sixes)"
            onCommit={(order) => change('Slope')({ order })}
            onStep={(direction) => byKey({ order: Math.min(HIGHEST_ORDER, Math.max(1, band.order + direction)) })}
          />
          <i>Butterworth</i>
        </FigureRow>
      )}
      <FigureRow>
        <label htmlFor={noteId}>Why</label>
        <Why
          id={noteId}
          value={band.note}
          maxLength={500}
          placeholder="what this move is for"
          onCommit={(note) => change('Note')({ note })}
        />
      </FigureRow>
      <BandActions />
    </Side>
  );
}

/** These parts stay as they are while the band is dragged. */
const OnOff = memo(function OnOff({ letter, isOn }: { letter: string; isOn: boolean }) {
  return (
    <TextButton
      aria-label={`Band ${letter} on or off`}
      aria-pressed={isOn}
      data-hint="This band on or off · O"
      onPress={() => runCommand('band-on')}
    >
      {isOn ? 'On' : 'Off'}
    </TextButton>
  );
});

const BandActions = memo(function BandActions() {
  return (
    <Actions>
      <Button data-hint="Removes this band · Delete on its handle" onPress={() => runCommand('remove-band')}>
        Remove
      </Button>
    </Actions>
  );
});

const KindChoice = memo(function KindChoice({ type }: { type: BandType }) {
  const choose = (next: BandType) => {
    const { strip, band } = chosenBand();
    if (band) changeBand(strip.id, band.id, asType(band, next), 'Change the kind of band');
  };
  return <Choice label="Kind of band" value={type} options={TYPE_NAMES} width={144} onChange={choose} />;
});

/** What changes with the kind: what the new kind has no use for stays, a width that would not suit it starts anew. */
function asType(band: Band, type: BandType): BandChanges {
  const keepsWidth = hasQ(band.type) && hasQ(type) && band.type !== 'notch' && type !== 'notch';
  return { type, ...(hasQ(type) && !keepsWidth && { q: newBandSettings(type, band.frequencyHz).q }) };
}

const Side = styled.section`
  min-width: 0;
  min-height: 0;
  padding: 8px 16px;
  overflow-y: auto;
  > p {
    color: var(--soft);
  }
`;
const Head = styled.header`
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 6px;
  h2 {
    color: var(--accent);
    font: italic 400 18px/1.2 ${SERIF};
    white-space: nowrap;
  }
  > button:last-child {
    margin-left: auto;
  }
`;
const Why = styled(CommittedText)`
  grid-column: 2 / -1;
  width: 100%;
  padding: 2px 0;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: none;
  font: italic 400 14px/1.3 ${SERIF};
  &::placeholder {
    color: var(--soft);
  }
`;
const Actions = styled.div`
  display: flex;
  gap: 8px;
  margin-top: 8px;
`;
