'use client';
import styled from 'styled-components';
import { parseFrequency, PROCESSOR_WORDS, writeFrequency } from '@/core/formats';
import type { ProcessorSettings } from '@/core/processors';
import { OWN_KEY, type Key, type Range, type Strip } from '@/core/song';
import { ToggleButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField } from '../../kit/controls/value-field';
import { SERIF } from '../../kit/theme/tokens';
import { useDesk } from '../../window/desk/desk';
import { changeProcessor } from '../../window/song/processor-edits';
import { stripName } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { useListening } from '../../window/sound/listening';

/** What the processor on the bench listens to, and where it acts. */
export function KeyPanel({ strip, processor }: { strip: Strip; processor: ProcessorSettings }) {
  return (
    <Side aria-label="Bench">
      <Head>
        <h2>Bench</h2>
        <span title={stripName(strip)}>{stripName(strip)}</span>
      </Head>
      <p>{PROCESSOR_WORDS[processor.kind].what}</p>
      {'key' in processor && <KeyFields strip={strip} processor={processor} />}
      {'range' in processor && (
        <RangeFields
          title={{ ducker: 'Gives way', reverb: 'Heard of it', echo: 'Comes back' }[processor.kind]}
          range={processor.range}
          stripId={strip.id}
          processor={processor}
        />
      )}
    </Side>
  );
}

type Keyed = Extract<ProcessorSettings, { key: Key }>;

function KeyFields({ strip, processor }: { strip: Strip; processor: Keyed }) {
  const desk = useDesk();
  const { key } = processor;
  const heard = useListening((listening) => listening.key);
  const options = useSong((song) => song.tracks).filter(({ id }) => id !== strip.id);
  const groups = useSong((song) => song.buses).filter(({ id }) => id !== strip.id);
  const set = (changes: Partial<Key>, label: string) =>
    changeProcessor(desk, strip.id, processor, { key: { ...key, ...changes } }, label);
  return (
    <>
      <h3>Listens to</h3>
      <Choice
        label="Listens to"
        value={key.stripId}
        options={[
          { id: OWN_KEY, name: 'Its own sound' },
          ...[...options, ...groups].map(({ id, name }) => ({ id, name })),
        ]}
        width={188}
        onChange={(stripId) => set({ stripId }, 'Key')}
      />
      <EndFields range={key} what="key" onChange={(changes) => set(changes, 'Range of the key')} />
      <ToggleButton
        isSelected={heard?.processorId === processor.id}
        data-hint="What it listens to is heard alone · K held"
        onChange={(isHeard) =>
          useListening.of(desk).hearKey(isHeard ? { stripId: strip.id, processorId: processor.id } : null)
        }
      >
        Hear the key
      </ToggleButton>
    </>
  );
}

interface RangeFieldsProps {
  title: string;
  range: Range;
  stripId: string;
  processor: ProcessorSettings;
}

function RangeFields({ title, range, stripId, processor }: RangeFieldsProps) {
  const desk = useDesk();
  return (
    <>
      <h3>{title}</h3>
      <EndFields
        range={range}
        what="range"
        onChange={(changes) =>
          changeProcessor(desk, stripId, processor, { range: { ...range, ...changes } }, 'Range of a processor')
        }
      />
    </>
  );
}

/** One end of a range as it is typed: a frequency, or `open`. */
const parseEnd = (text: string): { hz: number | null } | null => {
  if (/^(open|none|)$/i.test(text.trim())) return { hz: null };
  const hz = parseFrequency(text);
  return hz === null ? null : { hz };
};
const writeEnd = (hz: number | null) => (hz === null ? 'open' : writeFrequency(hz));

function EndFields({
  range,
  what,
  onChange,
}: {
  range: Range;
  what: string;
  onChange: (changes: Partial<Range>) => void;
}) {
  return (
    <FigureRow>
      <span>From</span>
      <Ends>
        <ValueField
          label={`Lower end of the ${what}`}
          shown={writeEnd(range.lowHz)}
          parse={parseEnd}
          example="120 Hz, or open"
          width={64}
          onCommit={({ hz }) => onChange({ lowHz: hz })}
        />
        to
        <ValueField
          label={`Upper end of the ${what}`}
          shown={writeEnd(range.highHz)}
          parse={parseEnd}
          example="4k, or open"
          width={64}
          onCommit={({ hz }) => onChange({ highHz: hz })}
        />
      </Ends>
    </FigureRow>
  );
}

const Side = styled.section`
  min-width: 0;
  min-height: 0;
  padding: 8px 14px 6px 18px;
  overflow-y: auto;
  h3 {
    margin: 8px 0 3px;
    color: var(--soft);
    font: italic 400 14px/1.3 ${SERIF};
  }
  p {
    margin: 0;
    color: var(--soft);
  }
  > div {
    grid-template-columns: 34px auto;
  }
`;
const Head = styled.header`
  display: flex;
  align-items: baseline;
  gap: 9px;
  padding-bottom: 6px;
  h2 {
    font: italic 400 18px/1.2 ${SERIF};
  }
  span {
    min-width: 0;
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Ends = styled.div`
  display: flex;
  align-items: center;
  gap: 6px;
`;
