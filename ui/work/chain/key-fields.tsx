'use client';
import { useEffect } from 'react';
import styled from 'styled-components';
import { mapTyped, parseFrequency, writeFrequency, type Typed } from '@/core/formats';
import { OWN_KEY, type Key, type KeyChanges, type Range } from '@/core/song';
import { ToggleButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField } from '../../kit/controls/value-field';
import { useDesk } from '../../window/desk/desk';
import { useSong } from '../../window/song/song-store';
import { useListening } from '../../window/sound/listening';

interface KeyFieldsProps {
  stripId: string;
  /** The processor, or the band, that listens. */
  listenerId: string;
  value: Key;
  onChange: (changes: KeyChanges, label: string) => void;
}

/** What something listens to: a strip, and a range of it. */
export function KeyFields({ stripId, listenerId, value, onChange }: KeyFieldsProps) {
  const desk = useDesk();
  const heard = useListening((listening) => listening.key);
  const tracks = useSong((song) => song.tracks);
  const groups = useSong((song) => song.buses);
  // Where it is not shown any more nobody could end it.
  useEffect(
    () => () => {
      const { key, hearKey } = useListening.of(desk);
      if (key?.processorId === listenerId) hearKey(null);
    },
    [desk, listenerId],
  );
  const others = [...tracks, ...groups].filter(({ id }) => id !== stripId).map(({ id, name }) => ({ id, name }));
  return (
    <>
      <Choice
        label="Listens to"
        value={value.stripId}
        options={[{ id: OWN_KEY as string, name: 'Its own sound' }, ...others]}
        width={188}
        onChange={(next) => onChange({ stripId: next }, 'Key')}
      />
      <EndFields range={value} what="key" onChange={(changes) => onChange(changes, 'Range of the key')} />
      <ToggleButton
        isSelected={heard?.processorId === listenerId}
        data-hint="What it listens to is heard alone · K held"
        onChange={(isHeard) => useListening.of(desk).hearKey(isHeard ? { stripId, processorId: listenerId } : null)}
      >
        Hear the key
      </ToggleButton>
    </>
  );
}

/** One end of a range as it is typed: a frequency, or `open`. */
const parseEnd = (text: string): Typed<{ hz: number | null }> => {
  if (/^(open|none|)$/i.test(text.trim())) return { hz: null };
  return mapTyped(parseFrequency(text), (hz) => ({ hz }));
};
const writeEnd = (hz: number | null) => (hz === null ? 'open' : writeFrequency(hz));

interface EndFieldsProps {
  range: Range;
  /** What it is the range of. */
  what: string;
  onChange: (changes: Partial<Range>) => void;
}

/** Both ends of a range, either of which may be open. */
export function EndFields({ range, what, onChange }: EndFieldsProps) {
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

const Ends = styled.div`
  display: flex;
  align-items: center;
  gap: 6px;
`;
