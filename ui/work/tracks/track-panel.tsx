'use client';
import { memo } from 'react';
import styled from 'styled-components';
import {
  parseDelay,
  parseFrequency,
  parseGain,
  parsePan,
  possible,
  writeDelay,
  writeGain,
  writeLength,
  writeNumber,
  writePan,
} from '@/core/formats';
import { DELAY_RANGE_MS, FADER_RANGE_DB, MASTER_ID, MOST_LAYERS, TRACK_INKS, tracksWithin } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { AlignmentSection } from '../alignment/alignment-section';
import { KinLine } from '../alignment/kin-line';
import { ClaimsSection } from '../claims/claims-section';
import { Button, ToggleButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField, words } from '../../kit/controls/value-field';
import { stepDb } from '../../kit/gestures/steps';
import { useAnalyses } from '../../window/sound/analyses';
import { setStrips, stepStrips } from '../../window/song/strip-edits';
import {
  stripName,
  useChosenStrip,
  useSelection,
  useStripFacts,
  type StripFacts,
  useTogether,
} from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { SERIF } from '../../kit/theme/tokens';
import { FrozenRow } from '../freeze/frozen-row';
import { EndsPad } from '../ends/ends-pad';
import { FigureMark } from '../passages/figure-mark';
import { PartProposal } from './part-proposal';
import { SendsSection } from './sends-section';
import { makeLayers, removeChosenTrack } from './track-edits';

/** The chosen track, bus or master beside its equalizer: name, colour, level, place, polarity, and what its recording is. */
export function TrackPanel() {
  const { id } = useChosenStrip();
  return <Facts key={id} stripId={id} />;
}

const Facts = memo(function Facts({ stripId }: { stripId: string }) {
  const strip = useStripFacts(stripId);
  const tracks = useSong((song) => song.tracks.length);
  const isMaster = strip.id === MASTER_ID;
  const hasTracks = useSong((song) => strip.audioId !== undefined || tracksWithin(song, stripId).length > 0);
  const others = useSelection((selection) => selection.others.length);
  return (
    <Panel aria-label={isMaster ? 'Master' : `Track ${stripName(strip)}`}>
      {isMaster ? (
        <Help>
          {tracks === 0
            ? 'A song begins with its recordings.'
            : 'Everything runs into the master. ↑ and ↓ choose a track.'}
        </Help>
      ) : (
        <Identity strip={strip} />
      )}
      {others > 0 && <Help role="status">{others + 1} are chosen: what is set here is set on all of them.</Help>}
      {strip.outputId !== undefined && <GroupChoice stripId={strip.id} outputId={strip.outputId} />}
      <LevelAndPlace strip={strip} />
      {others > 0 && <AlignmentSection />}
      {strip.audioId !== undefined && <FrozenRow stripId={strip.id} />}
      {strip.audioId !== undefined && <KinLine stripId={strip.id} />}
      <EndsPad />
      <SendsSection strip={strip} />
      {strip.audioId !== undefined && <LayersRow stripId={strip.id} />}
      {strip.claims !== undefined && hasTracks && <ClaimsSection strip={{ ...strip, claims: strip.claims }} />}
      {strip.audioId !== undefined && <RecordingFacts {...strip} audioId={strip.audioId} />}
    </Panel>
  );
});

/** What is set here is set on every track that is chosen: on those that are when the gesture begins. */
function useSet(strip: StripFacts) {
  const desk = useDesk();
  const together = useTogether(strip.id);
  return (changes: Parameters<typeof setStrips>[2], label: string) => setStrips(desk, together, changes, label);
}

function Identity({ strip }: { strip: StripFacts }) {
  const set = useSet(strip);
  const edit = useSongStore((store) => store.edit);
  return (
    <>
      <FigureRow>
        <span>Name</span>
        <ValueField
          label="Name"
          shown={stripName(strip)}
          parse={words(1)}
          example="Cello: a track needs a name"
          look="line"
          maxLength={120}
          onCommit={(name) => edit({ kind: 'strip.set', stripId: strip.id, changes: { name } }, 'Rename the track')}
        />
      </FigureRow>
      {strip.part !== undefined && (
        <FigureRow>
          <span>Part</span>
          <ValueField
            label="Part"
            shown={strip.part}
            parse={words()}
            example="acoustic guitar"
            look="line"
            maxLength={60}
            placeholder="what instrument"
            onCommit={(part) => set({ part }, 'Part')}
          />
        </FigureRow>
      )}
      {strip.part === '' && <PartProposal stripId={strip.id} />}
      <Inks role="group" aria-label="Colour">
        {Array.from({ length: TRACK_INKS }, (_, ink) => (
          <button
            key={ink}
            type="button"
            aria-label={`Ink ${ink + 1}`}
            aria-pressed={strip.ink === ink}
            data-ink=""
            style={{ background: `var(--ink-${ink})` }}
            onClick={() => set({ ink }, 'Colour')}
          />
        ))}
      </Inks>
    </>
  );
}

/** Which group it runs into. */
function GroupChoice({ stripId, outputId }: { stripId: string; outputId: string }) {
  const desk = useDesk();
  const buses = useSong((song) => song.buses);
  if (buses.length === 0) return null;
  const options = [
    { id: MASTER_ID as string, name: 'none: the master' },
    ...buses.filter(({ id }) => id !== stripId).map(({ id, name }) => ({ id, name })),
  ];
  return (
    <FigureRow>
      <span>Group</span>
      <Choice
        label="Group"
        value={outputId}
        options={options}
        width={161}
        onChange={(next) => setStrips(desk, stripId, { outputId: next }, 'Group')}
      />
    </FigureRow>
  );
}

function LevelAndPlace({ strip }: { strip: StripFacts }) {
  const desk = useDesk();
  const { pan } = strip;
  const set = useSet(strip);
  return (
    <>
      <FigureRow>
        <span>
          Level
          <FigureMark stripId={strip.id} of="strip" partId="" field="gainDb" />
        </span>
        <ValueField
          label="Level"
          shown={writeGain(strip.gainDb)}
          parse={(text) => parseGain(text, FADER_RANGE_DB)}
          example="−3, +2.5 dB"
          onCommit={(gainDb) => set({ gainDb }, 'Level')}
          onStep={(direction, size) =>
            stepStrips(
              desk,
              strip.id,
              ({ gainDb }) => ({ gainDb: stepDb(gainDb, direction, size, FADER_RANGE_DB) }),
              'Level',
            )
          }
        />
      </FigureRow>
      {pan !== undefined && (
        <FigureRow>
          <span>
            Position
            <FigureMark stripId={strip.id} of="strip" partId="" field="pan" />
          </span>
          <ValueField
            label="Position"
            shown={writePan(pan)}
            parse={parsePan}
            example="L 30, R 30 or C"
            onCommit={(typed) => set({ pan: typed }, 'Position')}
            onStep={(direction, size) =>
              stepStrips(
                desk,
                strip.id,
                (strip) => ({ pan: steppedPan('pan' in strip ? strip.pan : 0, direction, PAN_STEPS[size]) }),
                'Position',
              )
            }
          />
          <i data-hint="A mono track in the middle reaches each side at −3 dB; at a side it is at 0 dB">
            constant power
          </i>
        </FigureRow>
      )}
      {strip.hasSides &&
        strip.midDb !== undefined &&
        (['midDb', 'sideDb'] as const).map((field) => (
          <FigureRow key={field}>
            <span>
              {SIDES[field]}
              <FigureMark stripId={strip.id} of="strip" partId="" field={field} />
            </span>
            <ValueField
              label={SIDES[field]}
              shown={writeGain(strip[field] ?? 0)}
              parse={(text) => parseGain(text, FADER_RANGE_DB)}
              example="−3, +2.5 dB"
              hint={`Level of what both sides ${field === 'midDb' ? 'share' : 'differ in'}, behind the chain`}
              onCommit={(db) => set({ [field]: db }, SIDES[field])}
              onStep={(direction, size) =>
                stepStrips(
                  desk,
                  strip.id,
                  (part) => ({ [field]: stepDb('midDb' in part ? part[field] : 0, direction, size, FADER_RANGE_DB) }),
                  SIDES[field],
                )
              }
            />
          </FigureRow>
        ))}
      {(['muted', 'polarityInverted'] as const).map(
        (field) =>
          strip[field] !== undefined && <SwitchRow key={field} strip={strip} field={field} isOn={strip[field]} />,
      )}
      {strip.delayMs !== undefined && <DelayRow strip={strip} delayMs={strip.delayMs} />}
    </>
  );
}

const SWITCHES = {
  muted: { label: 'Mute', on: 'Muted', off: 'Heard' },
  polarityInverted: { label: 'Polarity', on: 'Turned', off: 'As recorded' },
};

function SwitchRow({ strip, field, isOn }: { strip: StripFacts; field: keyof typeof SWITCHES; isOn: boolean }) {
  const set = useSet(strip);
  const { label, on, off } = SWITCHES[field];
  return (
    <FigureRow>
      <span>
        {label}
        <FigureMark stripId={strip.id} of="strip" partId="" field={field} />
      </span>
      <ToggleButton $tone="ink" isSelected={isOn} onChange={(next) => set({ [field]: next }, label)}>
        {isOn ? on : off}
      </ToggleButton>
    </FigureRow>
  );
}

function DelayRow({ strip, delayMs }: { strip: StripFacts; delayMs: number }) {
  const desk = useDesk();
  const set = useSet(strip);
  const rateHz = useSong((song) => song.rateHz);
  return (
    <FigureRow>
      <span>Delay</span>
      <ValueField
        label="Delay"
        shown={writeDelay(delayMs)}
        parse={(text) => parseDelay(text, rateHz, DELAY_RANGE_MS)}
        example="1.42 ms, −68 samples, 0.5 m"
        hint="How much later the recording sounds, below 0 earlier · ms, samples, or metres of air"
        onCommit={(typed) => set({ delayMs: typed }, 'Delay')}
        onStep={(direction, size) =>
          stepStrips(
            desk,
            strip.id,
            (part) => ({
              delayMs: steppedDelay('delayMs' in part ? part.delayMs : 0, direction, DELAY_STEPS_MS[size]),
            }),
            'Delay',
          )
        }
      />
      <i>{writeNumber((delayMs * rateHz) / 1000)} samples</i>
    </FigureRow>
  );
}

const DELAY_STEPS_MS = { fine: 0.01, plain: 0.1, coarse: 1 };
const steppedDelay = (ms: number, direction: 1 | -1, step: number) =>
  Math.round(1000 * Math.min(DELAY_RANGE_MS.max, Math.max(DELAY_RANGE_MS.min, ms + direction * step))) / 1000;

/** Corners as they are typed: `120, 2k`; `copies` for none. @returns in rising order, at least a third of an octave apart; null for what cannot be read */
function parseCorners(text: string): number[] | null {
  if (/^copies$/i.test(text.trim())) return [];
  const corners = text.split(/[,;]\s*|\s+(?=\d)/).map((part) => possible(parseFrequency(part)));
  if (corners.length >= MOST_LAYERS || corners.some((hz) => hz === null)) return null;
  const rising = corners.map((hz) => hz!).sort((a, b) => a - b);
  return rising.every((hz, i) => i === 0 || hz > rising[i - 1] * 1.25) ? rising : null;
}

/** Turns the track into a group of ranges of itself. */
function LayersRow({ stripId }: { stripId: string }) {
  const desk = useDesk();
  return (
    <FigureRow>
      <span>Layers</span>
      <ValueField
        label="Layers"
        shown=""
        parse={parseCorners}
        example="120, 2k: a layer for each range; or copies"
        look="line"
        placeholder="split at 120, 2k"
        hint="A group of parallel layers of this recording, one for each range between these corners; “copies” for two equal ones"
        onCommit={(corners) => makeLayers(desk, stripId, corners)}
      />
    </FigureRow>
  );
}

const SIDES = { midDb: 'Middle', sideDb: 'Sides' } as const;
const PAN_STEPS = { fine: 0.01, plain: 0.05, coarse: 0.25 };

/** Rounded, so that many steps there and back end in the middle. */
const steppedPan = (pan: number, direction: 1 | -1, step: number) =>
  Math.round(Math.min(1, Math.max(-1, pan + direction * step)) * 100) / 100;

function RecordingFacts({ audioId, channels, lengthFrames = 0 }: StripFacts & { audioId: string }) {
  const desk = useDesk();
  const analysis = useAnalyses((state) => state.byAudio[audioId]);
  const rateHz = useSong((song) => song.rateHz);
  return (
    <>
      <Figures>
        <dt>Recording</dt>
        <dd>
          {channels === 1 ? 'mono' : 'stereo'}, {writeLength(lengthFrames / rateHz)}
        </dd>
        <dt>Sample peak</dt>
        <dd>{analysis ? `${writeNumber(analysis.samplePeakDb)} dBFS` : '…'}</dd>
        <dt>True peak</dt>
        <dd>{analysis ? `${writeNumber(analysis.truePeakDb)} dBTP` : '…'}</dd>
        <dt>Loudness</dt>
        <dd>
          {analysis
            ? analysis.integratedLufs === null
              ? 'silent'
              : `${writeNumber(analysis.integratedLufs)} LUFS, range ${writeNumber(analysis.loudnessRangeLu)} LU`
            : '…'}
        </dd>
        <dt>RMS</dt>
        <dd>{analysis ? `${writeNumber(analysis.rmsDb)} dBFS` : '…'}</dd>
        <dt>Crest</dt>
        <dd>{analysis ? `${writeNumber(analysis.samplePeakDb - analysis.rmsDb)} dB` : '…'}</dd>
      </Figures>
      <Button
        data-hint="Takes the track out of the song; its recording is kept, and undo brings it back"
        onPress={() => removeChosenTrack(desk)}
      >
        Remove the track
      </Button>
    </>
  );
}

const Panel = styled.section`
  min-height: 0;
  padding: 8px 16px;
  overflow-y: auto;
  h2 {
    margin-bottom: 8px;
    font: italic 400 18px/1.2 ${SERIF};
  }
`;
const Inks = styled.div`
  display: flex;
  justify-content: space-between;
  margin: 3px 0;
  button {
    width: 24px;
    height: 24px;
    padding: 0;
    border: 4px solid transparent;
    border-radius: 6px;
    background-clip: padding-box !important;
  }
  button[aria-pressed='true'] {
    box-shadow: inset 0 0 0 2px var(--ink);
  }
`;
const Figures = styled.dl`
  display: grid;
  grid-template-columns: 78px 1fr;
  gap: 3px 8px;
  margin: 12px 0;
  padding-top: 10px;
  border-top: 1px solid var(--grid);
  dt {
    color: var(--soft);
  }
  dd {
    margin: 0;
  }
`;
const Help = styled.p`
  margin-bottom: 10px;
  color: var(--soft);
`;
