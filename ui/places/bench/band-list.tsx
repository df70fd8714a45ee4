'use client';
import { memo } from 'react';
import { MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { parseGain, writeFrequency, writeGain, writeNumber, writeSlope } from '@/core/formats';
import { GAIN_RANGE_DB, hasGain, isPassFilter, type Band, type BandType, type Edit } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { runCommand } from '../../window/commands/command-store';
import { Menu, MenuItem, MenuPanel } from '../../kit/controls/menu';
import { TextButton } from '../../kit/controls/button';
import { ValueField } from '../../kit/controls/value-field';
import { arrowDirection, stepDb } from '../../kit/gestures/steps';
import { channelLetter } from '../../kit/signs/channels';
import { typeName, TYPE_NAMES } from '../../kit/signs/type-names';
import { KeyPanel } from '../../work/chain/key-panel';
import { FigureMark } from '../../work/passages/figure-mark';
import { addBand } from '../../window/song/band-edits';
import { carryEqualizer } from '../../window/song/carry';
import { copyOf } from '../../window/song/equalizer-edits';
import {
  chosenBand,
  equalizerOnBench,
  stripName,
  useChosenProcessor,
  useChosenStrip,
  useSelection,
} from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { SERIF } from '../../kit/theme/tokens';

/** Where a band of each type starts when no place was pointed at, Hz. Common practice. */
const START_HZ: Partial<Record<BandType, number>> = {
  'low-shelf': 120,
  'high-shelf': 8000,
  'high-pass': 80,
  'low-pass': 12000,
  'twin-shelf': 60,
};

/** The chosen track's bands as a list. */
export function BandList() {
  const strip = useChosenStrip();
  const bandId = useSelection((selection) => selection.bandId);
  const equalizer = equalizerOnBench(
    strip,
    useSelection((selection) => selection.processorId),
  );
  const processor = useChosenProcessor();
  if (processor && processor.kind !== 'equalizer')
    return <KeyPanel key={processor.id} strip={strip} processor={processor} />;
  if (!equalizer) return <Side />;
  const reachedId = (equalizer.bands.find(({ id }) => id === bandId) ?? equalizer.bands[0])?.id;

  return (
    <Side aria-label="Bench">
      <Head>
        <h2>Bench</h2>
        <span
          title={stripName(strip)}
          draggable
          data-hint="Drag it on a lane: the whole equalizer is copied there · Ctrl Alt C copies it"
          onDragStart={(event) => carryEqualizer(event.dataTransfer, copyOf(equalizer))}
        >
          {stripName(strip)}
        </span>
        <FigureMark stripId={strip.id} of="processor" partId={equalizer.id} field="enabled" />
        <OnOff name={stripName(strip)} isOn={equalizer.enabled} />
      </Head>
      <Rows aria-label={`List of bands of ${stripName(strip)}`}>
        {equalizer.bands.map((band) => (
          <BandRow key={band.id} band={band} isChosen={band.id === bandId} isReached={band.id === reachedId} />
        ))}
      </Rows>
      <Foot>
        <AddMenu />
        <Output stripId={strip.id} equalizerId={equalizer.id} gainDb={equalizer.outputGainDb} />
      </Foot>
    </Side>
  );
}

interface BandRowProps {
  band: Band;
  isChosen: boolean;
  isReached: boolean;
}

/** One band, which can be dragged to a lane. Tab reaches one of them; arrows walk from one to the next. It stays as it is while another is dragged. */
const BandRow = memo(function BandRow({ band, isChosen, isReached }: BandRowProps) {
  const desk = useDesk();
  const equalizer = () => chosenBand(desk).equalizer;
  const chooseBand = useSelection((selection) => selection.chooseBand);
  const onKeyDown = (event: React.KeyboardEvent) => {
    const arrow = arrowDirection(event);
    const bands = equalizer()?.bands ?? [];
    const next = bands[bands.findIndex(({ id }) => id === band.id) - (arrow?.direction ?? 0)];
    if (arrow?.axis !== 'y' || !next) return;
    event.preventDefault();
    chooseBand(next.id);
    event.currentTarget.closest('ul')?.querySelector<HTMLElement>(`[data-band="${next.id}"]`)?.focus();
  };
  const onDragStart = (event: React.DragEvent) => {
    const carried = equalizer();
    if (carried) carryEqualizer(event.dataTransfer, copyOf(carried, band.id));
  };
  return (
    <li draggable onDragStart={onDragStart}>
      <Row
        type="button"
        aria-current={isChosen}
        $off={!band.enabled}
        data-band={band.id}
        tabIndex={isReached ? 0 : -1}
        onKeyDown={onKeyDown}
        onClick={() => chooseBand(band.id)}
        data-hint="↑ ↓ here, [ and ] everywhere choose the band before and after · drag it on a lane to copy it there · Ctrl C copies it"
      >
        <b>
          {band.letter}
          {band.channel !== 'stereo' && <small>{channelLetter(band.channel)}</small>}
        </b>
        <span>{typeName(band.type)}</span>
        <span data-sound>{writeFrequency(band.frequencyHz)}</span>
        <i data-sound>{strength(band)}</i>
      </Row>
    </li>
  );
});

interface OutputProps {
  stripId: string;
  equalizerId: string;
  gainDb: number;
}

/** The gain behind all bands. */
function Output({ stripId, equalizerId, gainDb }: OutputProps) {
  const edit = useSongStore((store) => store.edit);
  const editByKey = useSongStore((store) => store.editByKey);
  const set = (outputGainDb: number): Edit => ({
    kind: 'equalizer.set',
    stripId,
    equalizerId,
    changes: { outputGainDb },
  });
  return (
    <label>
      Output
      <FigureMark stripId={stripId} of="processor" partId={equalizerId} field="outputGainDb" />
      <ValueField
        label="Output gain of the equalizer"
        shown={writeGain(gainDb)}
        parse={(text) => parseGain(text, GAIN_RANGE_DB)}
        example="−3, +2.5 dB"
        width={64}
        onCommit={(typed) => edit(set(typed), 'Output gain')}
        onStep={(direction, size) =>
          editByKey(set(stepDb(gainDb, direction, size, GAIN_RANGE_DB)), 'Output gain', `${equalizerId}/output`)
        }
      />
    </label>
  );
}

/** The whole equalizer. It stays as it is while a band is dragged. */
const OnOff = memo(function OnOff({ name, isOn }: { name: string; isOn: boolean }) {
  const desk = useDesk();
  return (
    <TextButton
      aria-label={`Equalizer of ${name}`}
      aria-pressed={isOn}
      data-hint="The whole equalizer of this track on or off · Shift O"
      onPress={() => runCommand(desk, 'equalizer-on')}
    >
      {isOn ? 'On' : 'Off'}
    </TextButton>
  );
});

/** Adds a band of a kind. */
const AddMenu = memo(function AddMenu() {
  const desk = useDesk();
  return (
    <MenuTrigger>
      <TextButton data-hint="Adds a band to this track · N adds one by words: bell 2.5k −3">+ Add a band</TextButton>
      <MenuPanel placement="top start">
        <Menu
          aria-label="Kind of band"
          onAction={(type) =>
            addBand(desk, { type: type as BandType, frequencyHz: START_HZ[type as BandType] ?? 1000 })
          }
        >
          {TYPE_NAMES.map(({ id, name }) => (
            <MenuItem key={id} id={id}>
              {name}
            </MenuItem>
          ))}
        </Menu>
      </MenuPanel>
    </MenuTrigger>
  );
});

function strength(band: Band): string {
  if (isPassFilter(band.type)) return writeSlope(band.order);
  if (band.type === 'twin-shelf') return `+${writeNumber(band.boostDb, 0)} ${writeNumber(-band.cutDb, 0)} dB`;
  return hasGain(band.type) ? writeGain(band.gainDb) : '';
}

const Side = styled.section`
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  padding: 8px 0 6px;
`;
const Head = styled.header`
  display: flex;
  align-items: baseline;
  gap: 9px;
  padding: 0 14px 6px 18px;
  h2 {
    font: italic 400 18px/1.2 ${SERIF};
  }
  span {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Rows = styled.ul`
  flex: 1;
  min-height: 0;
  margin: 0;
  padding: 0 6px;
  overflow-y: auto;
  list-style: none;
`;
const Row = styled.button<{ $off: boolean }>`
  display: grid;
  grid-template-columns: 19px minmax(0, 1fr) auto auto;
  gap: 4px;
  width: 100%;
  padding: 3px 6px 3px 9px;
  border: 1px solid var(--unseen);
  border-radius: 3px;
  background: none;
  text-align: left;
  white-space: nowrap;
  cursor: default;
  ${({ $off }) => $off && 'color: var(--soft); text-decoration: line-through;'}
  b {
    color: var(--soft);
    font-size: 12px;
    font-weight: 600;
    line-height: 18px;
  }
  small {
    margin-left: 2px;
    font-size: 10px;
  }
  span:first-of-type {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  span:nth-of-type(2) {
    text-align: right;
  }
  i {
    min-width: 53px;
    color: var(--soft);
    font-style: normal;
    text-align: right;
  }
  &:hover {
    background: var(--selected);
  }
  &[aria-current='true'] {
    border-color: var(--accent);
    background: var(--field);
  }
  &[aria-current='true'] b {
    color: var(--accent);
  }
`;
const Foot = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 6px 10px 0 18px;
  white-space: nowrap;
  label {
    display: flex;
    align-items: center;
    gap: 7px;
    color: var(--soft);
  }
`;
