'use client';
import { useCallback, useRef } from 'react';
import styled from 'styled-components';
import { PROCESSOR_WORDS, writeGain } from '@/core/formats';
import { compressorThresholdDb, gateThresholdDb, type ProcessorSettings } from '@/core/processors';
import { DETECTORS, FIGURES, OWN_KEY, type Strip } from '@/core/song';
import { Button, TextButton, ToggleButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField, words } from '../../kit/controls/value-field';
import { SERIF } from '../../kit/theme/tokens';
import { runCommand } from '../../window/commands/command-store';
import { useDesk } from '../../window/desk/desk';
import { showText } from '../../kit/frames/show';
import { isLookFrame, useFrames } from '../../kit/frames/use-frames';
import { tell } from '../../window/notices/notices';
import { gainNow } from '../../window/sound/gains-now';
import { matchedGainFor } from '../../window/sound/listening';
import { useStripMeasures } from '../../window/sound/strip-measures';
import { changeProcessor, removeProcessor, renameProcessor } from '../../window/song/processor-edits';
import { FigureMark } from '../passages/figure-mark';
import { FigureField, figuresOf } from './figure-field';
import { useObserved } from './observed-store';

/** The processor on the bench in figures. */
export function ProcessorPanel({ strip, processor }: { strip: Strip; processor: ProcessorSettings }) {
  const desk = useDesk();
  const { name } = PROCESSOR_WORDS[processor.kind];
  const set = (changes: Partial<ProcessorSettings>, label: string) =>
    changeProcessor(desk, strip.id, processor, changes, label);
  return (
    <Side aria-label={name}>
      <Head>
        <h2>{name}</h2>
        {HAS_GAIN.has(processor.kind) && <GainNow id={processor.id} />}
        <FigureMark stripId={strip.id} of="processor" partId={processor.id} field="enabled" />
        <TextButton
          aria-label={`${name} on or off`}
          aria-pressed={processor.enabled}
          data-hint="On or off, at the same latency · Shift O"
          onPress={() => runCommand(desk, 'equalizer-on')}
        >
          {processor.enabled ? 'On' : 'Off'}
        </TextButton>
      </Head>
      {Object.keys(figuresOf(processor)).map((field) =>
        field === 'ratio' && 'limits' in processor && processor.limits ? null : (
          <FigureField key={field} stripId={strip.id} processor={processor} field={field} />
        ),
      )}
      {processor.kind === 'compressor' && (
        <>
          <FigureRow>
            <span>Detector</span>
            <Choice
              label="Detector"
              value={processor.detector}
              options={DETECTORS.map((id) => ({ id, name: id === 'peak' ? 'Peak' : 'RMS' }))}
              width={96}
              onChange={(detector) => set({ detector }, 'Detector')}
            />
          </FigureRow>
          <ToggleButton isSelected={processor.limits} onChange={(limits) => set({ limits }, 'Limit')}>
            Limit: nothing rises above the threshold
          </ToggleButton>
        </>
      )}
      {processor.kind === 'echo' && (
        <ToggleButton isSelected={processor.crossing} onChange={(crossing) => set({ crossing }, 'Sides of the echo')}>
          Repeats change sides
        </ToggleButton>
      )}
      {'dry' in processor && (
        <ToggleButton isSelected={processor.dry} onChange={(dry) => set({ dry }, 'The sound itself')}>
          The sound itself is heard too
        </ToggleButton>
      )}
      <FigureRow>
        <span>Name</span>
        <ValueField
          label="Name of the processor"
          shown={processor.name}
          parse={words()}
          example="bind the horns"
          look="note"
          maxLength={60}
          placeholder={name}
          onCommit={(typed) => renameProcessor(desk, strip.id, processor, typed)}
        />
      </FigureRow>
      <Actions>
        {(processor.kind === 'gate' || processor.kind === 'compressor') && (
          <FromRecording stripId={strip.id} processor={processor} />
        )}
        {processor.kind === 'compressor' && <MatchLoudness stripId={strip.id} processor={processor} />}
        <Button
          data-hint="Removes it from the chain · Delete on its name"
          onPress={() => removeProcessor(desk, strip.id, processor.id)}
        >
          Remove
        </Button>
      </Actions>
    </Side>
  );
}

/** Those that take away, moment by moment. */
const HAS_GAIN: ReadonlySet<string> = new Set(['gate', 'compressor', 'ducker', 'limiter']);

/** What it takes away at this moment. */
function GainNow({ id }: { id: string }) {
  const desk = useDesk();
  const figure = useRef<HTMLSpanElement>(null);
  useFrames(
    useCallback(() => {
      if (!figure.current || !isLookFrame()) return;
      const db = gainNow(desk, id);
      showText(figure.current, db > -0.05 ? '' : writeGain(db));
    }, [desk, id]),
  );
  return <span ref={figure} data-sound data-testid="gain-now" data-hint="What it takes away at this moment" />;
}

/** Sets the make-up so that it is as loud with it as without it. */
function MatchLoudness({
  stripId,
  processor,
}: {
  stripId: string;
  processor: ProcessorSettings & { makeUpDb: number };
}) {
  const desk = useDesk();
  const isMeasured = useStripMeasures(({ measures }) => measures.get(stripId)?.isCurrent ?? false);
  const match = () => {
    const louderDb = matchedGainFor(desk, { kind: 'processor', stripId, processorId: processor.id });
    const { min, max } = FIGURES.compressor.makeUpDb;
    const makeUpDb = Math.min(max, Math.max(min, Math.round(10 * (processor.makeUpDb - louderDb)) / 10));
    changeProcessor(desk, stripId, processor, { makeUpDb }, 'Make-up by loudness');
  };
  return (
    <Button
      isDisabled={!isMeasured || !processor.enabled}
      data-hint={
        isMeasured
          ? 'Sets the make-up so that it is as loud with it as without it: BS.1770 over what is looped'
          : 'What it does is being measured'
      }
      onPress={match}
    >
      Match loudness
    </Button>
  );
}

type Proposed = Extract<ProcessorSettings, { kind: 'gate' | 'compressor' }>;

/** Sets the threshold from what the picture shows. */
function FromRecording({ stripId, processor }: { stripId: string; processor: Proposed }) {
  const desk = useDesk();
  const observed = useObserved((store) => store.observed);
  const isReady = observed?.processorId === processor.id;
  const propose = () => {
    const levels = (processor.key.stripId === OWN_KEY ? observed?.before : observed?.key) ?? observed?.before;
    if (!levels) return;
    const levelsDb = levels.peaks.map((peak) => 20 * Math.log10(Math.max(1e-10, peak)));
    const found = processor.kind === 'gate' ? gateThresholdDb(levelsDb) : compressorThresholdDb(levelsDb, processor);
    if (found === null) {
      tell(desk, 'What the picture shows is about as loud all the time, or silent: no threshold can be told from it.');
      return;
    }
    changeProcessor(
      desk,
      stripId,
      processor,
      { thresholdDb: Math.round(10 * found) / 10 },
      'Threshold from the recording',
    );
  };
  return (
    <Button
      isDisabled={!isReady}
      data-hint={
        processor.kind === 'gate'
          ? 'Between what sounds and what only bleeds in what the picture shows'
          : 'Where it takes 3 dB of what is loud in what the picture shows'
      }
      onPress={propose}
    >
      From the recording
    </Button>
  );
}

const Side = styled.section`
  min-width: 0;
  min-height: 0;
  padding: 8px 16px;
  overflow-y: auto;
  > button {
    margin: 3px 0;
  }
`;
const Head = styled.header`
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 4px;
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
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
`;
