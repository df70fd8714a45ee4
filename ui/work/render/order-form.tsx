'use client';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { parseGain, writeLength, writeNumber } from '@/core/formats';
import {
  CEILING_RANGE_DBTP,
  LUFS_RANGE,
  partSpans,
  PATTERN_WORDS,
  renderableStrips,
  stripsThatAddUp,
  TAIL_RANGE_SECONDS,
  unknownWords,
  type FileSettings,
  type RenderSpan,
} from '@/core/renders';
import { leftOutText, type Song } from '@/core/song';
import { TextButton } from '../../kit/controls/button';
import { Checkbox } from '../../kit/controls/checkbox';
import { Choice } from '../../kit/controls/choice';
import { ValueField, words } from '../../kit/controls/value-field';
import { useDesk } from '../../window/desk/desk';
import { useSong } from '../../window/song/song-store';
import { useRendering } from './rendering-store';

/** Stretches that can be chosen, by what they are called in the store. */
export function offeredSpans(song: Song): { key: string; name: string; span: RenderSpan }[] {
  const loop = song.loop && { ...song.loop, name: 'loop' };
  return [
    ...(loop ? [{ key: 'loop', name: 'The loop', span: loop }] : []),
    ...partSpans(song).map((span, i) => ({ key: `part ${i}`, name: span.name, span })),
  ];
}

const FILES = [
  { id: 'wav 24', name: 'WAV, 24 bit' },
  { id: 'wav 16', name: 'WAV, 16 bit, dithered' },
  { id: 'wav 32f', name: 'WAV, 32-bit float' },
  { id: 'flac 24', name: 'FLAC, 24 bit' },
  { id: 'flac 16', name: 'FLAC, 16 bit, dithered' },
  { id: 'mp3 24', name: 'MP3, small, to send' },
] as const;

const FILE_NOTES: Record<(typeof FILES)[number]['id'], string> = {
  'wav 24': 'for handing on; full scale is the limit',
  'wav 16': 'for listening',
  'wav 32f': 'for further work; nothing can clip',
  'flac 24': 'as the WAV, in about half the room',
  'flac 16': 'as the WAV, in about half the room',
  'mp3 24': '192 kbit/s',
};

/** A number within a range, with or without its unit. */
const typed = (range: { min: number; max: number }) => (text: string) =>
  parseGain(text.replace(/\s*(lufs|dbtp|s)$/i, ''), range);

/** What is rendered, of which stretches, and how it is written. */
export function OrderForm() {
  return (
    <Form>
      <WhatSection />
      <WhereSection />
      <FileSection />
    </Form>
  );
}

function WhatSection() {
  const order = useRendering((rendering) => rendering.order);
  const change = useRendering((rendering) => rendering.change);
  const strips = useSong(
    useShallow((song) => renderableStrips(song).map(({ id, kind, name }) => `${id}/${kind}/${name}`)),
  ).map((line) => {
    const [id, kind, ...name] = line.split('/');
    return { id, kind, name: name.join('/') };
  });
  const together = useSong(useShallow(stripsThatAddUp));
  const missing = useSong(leftOutText);
  const chosen = new Set(order.strips);
  const pick = (ids: readonly string[]) => change({ strips: [...ids] });
  return (
    <fieldset>
      <legend>What</legend>
      <Checkbox isChecked={order.mix} onToggle={() => change({ mix: !order.mix })}>
        <span>The mix</span>
      </Checkbox>
      <Checkbox
        hint="What the tracks, groups and returns add up to, for a master made elsewhere"
        isChecked={order.beforeMaster}
        onToggle={() => change({ beforeMaster: !order.beforeMaster })}
      >
        <span>The mix before the master’s chain</span>
      </Checkbox>
      <Line>
        <span>Each by itself:</span>
        <TextButton
          data-hint="What runs straight into the master: at unity it adds up to the mix before the master’s chain"
          onPress={() => pick(together)}
        >
          What adds up
        </TextButton>
        <TextButton onPress={() => pick(strips.filter(({ kind }) => kind === 'track').map(({ id }) => id))}>
          All tracks
        </TextButton>
        <TextButton onPress={() => pick(strips.map(({ id }) => id))}>All</TextButton>
        <TextButton onPress={() => pick([])}>None</TextButton>
      </Line>
      <Strips>
        {strips.map(({ id, kind, name }) => (
          <Checkbox
            key={id}
            label={`${name}, ${kind}`}
            isChecked={chosen.has(id)}
            onToggle={() =>
              pick(
                strips.map((strip) => strip.id).filter((other) => (other === id ? !chosen.has(id) : chosen.has(other))),
              )
            }
          >
            <span>{name}</span>
            <small>{kind === 'track' ? '' : kind}</small>
          </Checkbox>
        ))}
      </Strips>
      {order.strips.length > 0 && (
        <Checkbox
          hint="Each by itself through the master’s chain and fader; they do not add up to the mix where that chain reacts to levels"
          isChecked={order.throughMaster}
          onToggle={() => change({ throughMaster: !order.throughMaster })}
        >
          <span>Through the master’s chain</span>
        </Checkbox>
      )}
      {missing && <Missing role="status">{missing}</Missing>}
    </fieldset>
  );
}

function WhereSection() {
  const spans = useRendering((rendering) => rendering.spans);
  const setSpans = useRendering((rendering) => rendering.setSpans);
  const offered = useSong(
    useShallow((song) =>
      offeredSpans(song).map(({ key, name, span }) => `${key}/${span.endSeconds - span.startSeconds}/${name}`),
    ),
  ).map((line) => {
    const [key, seconds, ...name] = line.split('/');
    return { key, seconds: Number(seconds), name: name.join('/') };
  });
  const flip = (key: string) =>
    setSpans(spans.includes(key) ? spans.filter((other) => other !== key) : [...spans, key]);
  return (
    <fieldset>
      <legend>Where</legend>
      <Checkbox isChecked={spans.length === 0} onToggle={() => setSpans([])}>
        <span>The whole song</span>
      </Checkbox>
      <Strips>
        {offered.map(({ key, name, seconds }) => (
          <Checkbox key={key} isChecked={spans.includes(key)} onToggle={() => flip(key)}>
            <span>{name}</span>
            <small>{writeLength(seconds)}</small>
          </Checkbox>
        ))}
      </Strips>
    </fieldset>
  );
}

function FileSection() {
  const desk = useDesk();
  const order = useRendering((rendering) => rendering.order);
  const change = useRendering((rendering) => rendering.change);
  const { settings } = order;
  const set = (changes: Partial<FileSettings>) => {
    const { order: now, change: put } = useRendering.of(desk);
    put({ settings: { ...now.settings, ...changes } });
  };
  const { loudness } = settings;
  const setTarget = (changes: Partial<NonNullable<FileSettings['loudness']>>) =>
    loudness && set({ loudness: { ...loudness, ...changes } });
  const file = FILES.find(({ id }) => id === `${settings.file} ${settings.bits}`)?.id ?? 'wav 24';
  const parsePattern = (text: string) => (text.trim() !== '' && unknownWords(text).length === 0 ? text.trim() : null);
  return (
    <fieldset>
      <legend>How</legend>
      <Rows>
        <span>File</span>
        <Line>
          <Choice
            label="Kind of file"
            value={file}
            options={FILES}
            width={190}
            onChange={(id) => {
              const [kind, bits] = id.split(' ') as [FileSettings['file'], FileSettings['bits']];
              set({ file: kind, bits });
            }}
          />
          <small>{FILE_NOTES[file]}</small>
        </Line>
        <span>Loudness</span>
        <div>
          <Checkbox
            label="Bring the mix to a loudness"
            isChecked={loudness !== null}
            onToggle={() => set({ loudness: loudness ? null : { lufs: -16, ceilingDbtp: -1, by: 'gain' } })}
          >
            <span>{loudness ? 'The mix is brought to' : 'As it is'}</span>
          </Checkbox>
          {loudness && (
            <Line>
              <ValueField
                label="Loudness, LUFS"
                shown={`${writeNumber(loudness.lufs)} LUFS`}
                parse={typed(LUFS_RANGE)}
                onCommit={(lufs) => setTarget({ lufs })}
                example="-16"
                width={92}
              />
              <span>below</span>
              <ValueField
                label="True peak, dBTP"
                shown={`${writeNumber(loudness.ceilingDbtp)} dBTP`}
                parse={typed(CEILING_RANGE_DBTP)}
                onCommit={(ceilingDbtp) => setTarget({ ceilingDbtp })}
                example="-1"
                width={84}
              />
              <Choice
                label="What keeps peaks below it"
                value={loudness.by}
                options={[
                  { id: 'gain', name: 'by gain alone' },
                  { id: 'limiter', name: 'by a limiter' },
                ]}
                width={124}
                onChange={(by) => setTarget({ by })}
              />
            </Line>
          )}
        </div>
        <span>Tail</span>
        <Line>
          <ValueField
            label="Longest tail"
            shown={`${writeNumber(settings.tailSeconds, 0)} s`}
            parse={typed(TAIL_RANGE_SECONDS)}
            onCommit={(tailSeconds) => set({ tailSeconds })}
            example="12"
            width={58}
          />
          <small>{settings.tailSeconds === 0 ? 'it ends at its end' : 'at most, until it is 60 dB down'}</small>
        </Line>
        <span>Names</span>
        <ValueField
          label="Pattern of the names"
          shown={order.pattern}
          parse={parsePattern}
          onCommit={(pattern) => change({ pattern })}
          example={Object.keys(PATTERN_WORDS)
            .map((word) => `{${word}}`)
            .join(' ')}
          hint={Object.entries(PATTERN_WORDS)
            .map(([word, what]) => `{${word}}: ${what}`)
            .join('; ')}
          maxLength={120}
          look="line"
        />
        <span>Why</span>
        <ValueField
          label="Why it is made"
          shown={settings.why}
          parse={words()}
          onCommit={(why) => set({ why })}
          example="for the film"
          placeholder="goes into the files, with title and part"
          maxLength={500}
          look="note"
        />
      </Rows>
    </fieldset>
  );
}

const Form = styled.div`
  display: grid;
  gap: 12px;
  align-content: start;
  fieldset {
    min-width: 0;
    margin: 0;
    padding: 0;
    border: 0;
  }
  legend {
    margin-bottom: 2px;
    padding: 0;
    color: var(--soft);
  }
  small {
    color: var(--soft);
    font-size: 12.5px;
  }
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
`;
const Strips = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 0 14px;
  /* So that a row is seen to be cut where there are more. */
  max-height: 133px;
  margin: 2px 0;
  overflow-y: auto;
  label > span:nth-of-type(2) {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Rows = styled.div`
  display: grid;
  grid-template-columns: 66px minmax(0, 1fr);
  gap: 6px 8px;
  align-items: baseline;
`;
const Missing = styled.p`
  margin-top: 4px;
  color: var(--accent);
  font-weight: 500;
`;
