'use client';
import { memo, type ReactNode } from 'react';
import styled from 'styled-components';
import { legalOrder } from '@/core/filters';
import {
  parseFrequency,
  parseGain,
  parseQ,
  parseSlope,
  parseWidth,
  writeFrequency,
  writeGain,
  writeNote,
  writeNumber,
  writeSlope,
  writeWidth,
} from '@/core/formats';
import {
  GAIN_RANGE_DB,
  hasGain,
  hasQ,
  isPassFilter,
  channelsInto,
  equalizerWith,
  TWIN_RANGE_DB,
  type Band,
  type BandChanges,
  type Strip,
} from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { runCommand } from '../../window/commands/command-store';
import { Button, TextButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField, words } from '../../kit/controls/value-field';
import { stepDb, stepHz, stepOrder, stepQ } from '../../kit/gestures/steps';
import { cornerMeaning, hasRipple, hasStopband, slopeExample } from '../../kit/signs/families';
import { changeBand, changeBandByKey } from '../../window/song/band-edits';
import { ProcessorPanel } from '../../work/chain/processor-panel';
import { useChosenBand, useChosenProcessor, useChosenStrip } from '../../window/song/selection';
import { SERIF } from '../../kit/theme/tokens';
import { FigureMark } from '../../work/passages/figure-mark';
import { GivingSection } from './giving-section';
import { ChannelChoice, EndChoice, FamilyChoice, FenceChoice, KindChoice } from './band-choices';

/** The chosen band in figures. */
export function BandFigures() {
  const strip = useChosenStrip();
  const band = useChosenBand();
  const processor = useChosenProcessor();
  if (processor && processor.kind !== 'equalizer')
    return <ProcessorPanel key={processor.id} strip={strip} processor={processor} />;
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
  return <Figures key={band.id} strip={strip} band={band} />;
}

function Figures({ strip, band }: { strip: Strip; band: Band }) {
  const desk = useDesk();
  const stripId = strip.id;
  const change = (label: string) => (changes: BandChanges) => changeBand(desk, stripId, band.id, changes, label);
  const byKey = (changes: BandChanges) =>
    changeBandByKey(desk, stripId, band.id, changes, `Change band ${band.letter}`);
  const mark = (field: string) => <FigureMark stripId={stripId} of="band" partId={band.id} field={field} />;
  return (
    <Side aria-label={`Band ${band.letter}`}>
      <Head>
        <h2>Band {band.letter}</h2>
        <KindChoice type={band.type} />
        <OnOff letter={band.letter} isOn={band.enabled} />
      </Head>
      <FigureRow>
        <span>
          {isPassFilter(band.type) ? 'Corner' : 'Frequency'}
          {mark('frequencyHz')}
        </span>
        <ValueField
          label={isPassFilter(band.type) ? 'Corner' : 'Frequency'}
          shown={writeFrequency(band.frequencyHz)}
          parse={parseFrequency}
          example="2.5k, 440 Hz or A4"
          onCommit={(frequencyHz) => change('Frequency')({ frequencyHz })}
          onStep={(direction, size) => byKey({ frequencyHz: stepHz(band.frequencyHz, direction, size) })}
        />
        <i>{isPassFilter(band.type) ? cornerMeaning(band) : writeNote(band.frequencyHz)}</i>
      </FigureRow>
      {hasGain(band.type) && (
        <FigureRow>
          <span>Gain{mark('gainDb')}</span>
          <ValueField
            label="Gain"
            shown={writeGain(band.gainDb)}
            parse={(text) => parseGain(text, GAIN_RANGE_DB)}
            example="−3, +2.5 dB"
            onCommit={(gainDb) => change('Gain')({ gainDb })}
            onStep={(direction, size) => byKey({ gainDb: stepDb(band.gainDb, direction, size, GAIN_RANGE_DB) })}
          />
        </FigureRow>
      )}
      {band.type === 'twin-shelf' && (
        <>
          {(['boostDb', 'cutDb'] as const).map((field) => (
            <FigureRow key={field}>
              <span>
                {field === 'boostDb' ? 'Boost' : 'Cut'}
                {mark(field)}
              </span>
              <ValueField
                label={field === 'boostDb' ? 'Boost' : 'Cut'}
                shown={`${writeNumber(band[field])} dB`}
                parse={(text) => parseGain(text.replace(/^[+−-]/, ''), TWIN_RANGE_DB)}
                example="4 dB, 0 to 18"
                onCommit={(db) => change(field === 'boostDb' ? 'Boost' : 'Cut')({ [field]: db })}
                onStep={(direction, size) => byKey({ [field]: stepDb(band[field], direction, size, TWIN_RANGE_DB) })}
              />
            </FigureRow>
          ))}
          <EndChoice end={band.end} />
        </>
      )}
      {hasQ(band.type) && (
        <FigureRow>
          <span>Width{mark('q')}</span>
          <ValueField
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
          <ValueField
            label="Slope"
            shown={writeSlope(band.order)}
            parse={(text) => parseSlope(text, band.family)}
            example={slopeExample(band.family)}
            onCommit={(order) => change('Slope')({ order })}
            onStep={(direction) => byKey({ order: stepOrder(band, direction) })}
          />
          <i>order {legalOrder(band.family, band.order)}</i>
        </FigureRow>
      )}
      {isPassFilter(band.type) && <FamilyChoice />}
      {isPassFilter(band.type) && hasRipple(band.family) && (
        <FigureRow>
          <span>Ripple{mark('rippleDb')}</span>
          <ValueField
            label="Ripple"
            shown={`${writeNumber(band.rippleDb, 2)} dB`}
            parse={(text) => parseGain(text, { min: 0.01, max: 12 })}
            example="0.5 dB, 0.01 to 12"
            onCommit={(rippleDb) => change('Ripple')({ rippleDb })}
            onStep={(direction, size) =>
              byKey({ rippleDb: stepDb(band.rippleDb, direction, size, { min: 0.1, max: 12 }) })
            }
          />
          <i>inside</i>
        </FigureRow>
      )}
      {isPassFilter(band.type) && hasStopband(band.family) && (
        <FigureRow>
          <span>Floor{mark('stopbandDb')}</span>
          <ValueField
            label="Stopband"
            shown={`${writeNumber(-band.stopbandDb, 0)} dB`}
            parse={(text) => parseGain(text.replace(/[−-]/, ''), { min: 10, max: 120 })}
            example="−40 dB, −10 to −120"
            onCommit={(stopbandDb) => change('Stopband')({ stopbandDb })}
            onStep={(direction, size) =>
              byKey({ stopbandDb: stepDb(band.stopbandDb, direction === 1 ? -1 : 1, size, { min: 10, max: 120 }) })
            }
          />
          <i>outside</i>
        </FigureRow>
      )}
      {isPassFilter(band.type) && band.family === 'resonant' && (
        <FigureRow>
          <span>Resonance{mark('q')}</span>
          <ValueField
            label="Resonance"
            shown={`Q ${writeNumber(band.q, 2)}`}
            parse={parseQ}
            example="4 or Q 4"
            onCommit={(q) => change('Resonance')({ q })}
            onStep={(direction, size) => byKey({ q: stepQ(band.q, direction === 1 ? -1 : 1, size) })}
          />
        </FigureRow>
      )}
      <ChannelChoice isMono={channelsInto(strip, equalizerWith(strip, band.id)?.id) === 1} channel={band.channel} />
      <FenceChoice limits={band.limits} />
      <GivingSection stripId={stripId} band={band} />
      <FigureRow>
        <span>Why</span>
        <ValueField
          label="Why"
          shown={band.note}
          parse={words()}
          example="boxy on the open string"
          look="note"
          maxLength={500}
          placeholder="what this move is for"
          onCommit={(note) => change('Note')({ note })}
        />
      </FigureRow>
      <BandActions>{mark('enabled')}</BandActions>
    </Side>
  );
}

/** These parts stay as they are while the band is dragged. */
const OnOff = memo(function OnOff({ letter, isOn }: { letter: string; isOn: boolean }) {
  const desk = useDesk();
  return (
    <TextButton
      aria-label={`Band ${letter} on or off`}
      aria-pressed={isOn}
      data-hint="This band on or off · O"
      onPress={() => runCommand(desk, 'band-on')}
    >
      {isOn ? 'On' : 'Off'}
    </TextButton>
  );
});

const BandActions = memo(function BandActions({ children }: { children: ReactNode }) {
  const desk = useDesk();
  return (
    <Actions>
      <Button data-hint="Removes this band · Delete on its handle" onPress={() => runCommand(desk, 'remove-band')}>
        Remove
      </Button>
      {children}
    </Actions>
  );
});

const Side = styled.section`
  min-width: 0;
  min-height: 0;
  padding: 8px 16px;
  overflow-y: auto;
  > p,
  em {
    color: var(--soft);
    font-style: normal;
  }
`;
const Head = styled.header`
  display: flex;
  align-items: center;
  gap: 4px;
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
const Actions = styled.div`
  display: flex;
  gap: 8px;
  margin-top: 8px;
`;
