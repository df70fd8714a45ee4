'use client';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { parseGain, writeGain, type Typed } from '@/core/formats';
import { FADER_RANGE_DB, sendTargets, setSend, type Send } from '@/core/song';
import { TextButton, ToggleButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField } from '../../kit/controls/value-field';
import { stepDb } from '../../kit/gestures/steps';
import { useDesk } from '../../window/desk/desk';
import { songOf } from '../../window/song/live-song';
import type { StripFacts } from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { FigureMark } from '../passages/figure-mark';
import { addReturn } from './track-edits';

/** What of a strip goes to returns and groups besides. */
export function SendsSection({ strip }: { strip: StripFacts }) {
  const desk = useDesk();
  const targets = useSong(useShallow((song) => sendTargets(song, strip.id).map(({ id }) => id)));
  const names = useSong(useShallow((song) => song.buses.map(({ id, name }) => `${id}/${name}`)));
  if (!strip.sends) return null;
  const nameOf = (busId: string) => names.find((line) => line.startsWith(`${busId}/`))?.slice(busId.length + 1) ?? '';
  return (
    <>
      {targets.map((busId) => (
        <SendRow
          key={busId}
          stripId={strip.id}
          busId={busId}
          name={nameOf(busId)}
          send={strip.sends!.find((send) => send.busId === busId)}
        />
      ))}
      <TextButton
        data-hint="A bus with a reverb that is heard beside the dry sound; what is chosen is sent to it"
        onPress={() => addReturn(desk)}
      >
        + New return with a reverb
      </TextButton>
    </>
  );
}

interface SendRowProps {
  stripId: string;
  busId: string;
  name: string;
  send: Send | undefined;
}

function SendRow({ stripId, busId, name, send: known }: SendRowProps) {
  const desk = useDesk();
  // One that only passages switch on is off in the rest of the song.
  const send = known?.enabled ? known : undefined;
  const set = (changes: Partial<Send> | null) => setSend(songOf(desk), stripId, busId, changes);
  const edit = (changes: Partial<Send> | null) => useSongStore.of(desk).edit(set(changes), `Send to ${name}`);
  const parse = (text: string): Typed<number | 'off'> =>
    /^(off|none|)$/i.test(text.trim()) ? 'off' : parseGain(text, FADER_RANGE_DB);
  return (
    <FigureRow>
      <SendName title={`Send to ${name}`}>
        to {name}
        <FigureMark stripId={stripId} of="send" partId={busId} field="gainDb" />
        <FigureMark stripId={stripId} of="send" partId={busId} field="enabled" />
      </SendName>
      <ValueField
        label={`Send to ${name}`}
        shown={send ? writeGain(send.gainDb) : 'off'}
        parse={parse}
        example="−12 dB, or off"
        hint="How loud it is sent there · ↑ ↓ step it · off takes it away"
        width={76}
        onCommit={(typed) => edit(typed === 'off' ? null : { gainDb: typed })}
        onStep={(direction, size) =>
          useSongStore
            .of(desk)
            .editByKey(
              set({ gainDb: send ? stepDb(send.gainDb, direction, size, FADER_RANGE_DB) : -30 }),
              `Send to ${name}`,
              `${stripId}/${busId}`,
            )
        }
      />
      {send && (
        <ToggleButton
          $tone="ink"
          aria-label={`Send to ${name} before the fader`}
          isSelected={send.tap === 'before-fader'}
          onChange={(isBefore) => edit({ tap: isBefore ? 'before-fader' : 'after-fader' })}
        >
          {send.tap === 'before-fader' ? 'before fader' : 'after fader'}
        </ToggleButton>
      )}
    </FigureRow>
  );
}

const SendName = styled.span`
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
`;
