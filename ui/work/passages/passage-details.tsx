'use client';
import styled from 'styled-components';
import { parseSeconds, within, writeGain, writeMoment, writeNumber, type Typed } from '@/core/formats';
import { barAt, barQuarters, beatQuarters, metreAt, quarterAt, secondsAt } from '@/core/grid';
import {
  between,
  figureOf,
  hasSteps,
  ownerOf,
  parseValue,
  partOf,
  placePassage,
  SHORTEST_PASSAGE,
  valueOf,
  writeChange,
  writeValue,
} from '@/core/passages';
import { figureKey, type Passage, type PassageChange } from '@/core/song';
import { TextButton, ToggleButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { PanelLine } from '../../kit/controls/panel';
import { ValueField, words } from '../../kit/controls/value-field';
import { useDesk } from '../../window/desk/desk';
import { useOpenPassage } from '../../window/song/open-passage';
import { useSongStore } from '../../window/song/song-store';
import { useSession } from '../../window/sound/session-store';
import { evenedByDb, evenOut, measureAround, useEvening } from './even-out';
import { removePassage, repeatPassage, soloPassage, splitPassage, usePassageWork } from './passage-edits';
import { TimeRows } from './time-rows';

/** Reads a time of the song, as far as it lies within a stretch of it. */
const momentWithin =
  (stretch: { min: number; max: number }) =>
  (text: string): Typed => {
    const seconds = parseSeconds(text);
    return seconds === null ? null : within(seconds, stretch);
  };

/** One passage: its times, what it sets and its lines, how loud it is beside what lies around it. */
export function PassageDetails({ passage }: { passage: Passage }) {
  const desk = useDesk();
  const document = useSongStore(({ state }) => state.document);
  const { grid } = document;
  const { id, startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds } = passage;
  const length = endSeconds - startSeconds;
  const edit = useSongStore((store) => store.edit);
  const set = (changes: Partial<Pick<Passage, 'name' | 'fadeInSeconds' | 'fadeOutSeconds'>>, label: string) =>
    edit({ kind: 'passage.set', passageId: id, changes }, label);
  const isRecording = useOpenPassage((open) => open.passageId === id && open.isRecording);
  const isOpen = useOpenPassage((open) => open.passageId === id);
  /** A time; a number of beats or bars where there is a grid: “2 beats”, “1 bar”. */
  const parseSpan = (text: string): number | null => {
    const match = /^([\d.,]+)\s*(beats?|bars?)$/i.exec(text.trim());
    if (!match || !grid) return parseSeconds(text);
    const metre = metreAt(grid, barAt(grid, quarterAt(grid, startSeconds)).bar);
    const quarters =
      Number(match[1].replace(',', '.')) *
      (match[2].toLowerCase().startsWith('bar') ? barQuarters(metre) : beatQuarters(metre));
    return secondsAt(grid, quarterAt(grid, startSeconds) + quarters) - startSeconds;
  };
  const fade = (other: number) => (text: string) => {
    const seconds = parseSpan(text);
    return seconds === null || seconds < 0 ? null : within(seconds, { min: 0, max: Math.max(0, length - other) });
  };
  return (
    <Details>
      <FigureRow>
        <span>Name</span>
        <ValueField
          label="Name of the passage"
          shown={passage.name}
          parse={words(1)}
          example="Radio"
          look="line"
          maxLength={120}
          onCommit={(name) => set({ name }, 'Rename a passage')}
        />
      </FigureRow>
      <FigureRow>
        <span>From</span>
        <ValueField
          label="Passage from"
          shown={writeMoment(startSeconds)}
          parse={momentWithin({ min: 0, max: endSeconds - SHORTEST_PASSAGE })}
          example="1:05.25"
          width={84}
          onCommit={(at) => edit(placePassage(passage, at, endSeconds), 'Move a passage')}
        />
        <TextButton onPress={() => useSession.of(desk).seek(startSeconds)}>Go there</TextButton>
      </FigureRow>
      <FigureRow>
        <span>To</span>
        <ValueField
          label="Passage to"
          shown={writeMoment(endSeconds)}
          parse={momentWithin({ min: startSeconds + SHORTEST_PASSAGE, max: Infinity })}
          example="1:12"
          width={84}
          onCommit={(at) => edit(placePassage(passage, startSeconds, at), 'Move a passage')}
        />
        <i>{writeNumber(length, 2)} s</i>
      </FigureRow>
      <FigureRow>
        <span>Fade in</span>
        <ValueField
          label="Fade in"
          shown={`${writeNumber(fadeInSeconds, 2)} s`}
          parse={fade(fadeOutSeconds)}
          example={grid ? '0.5 s, 2 beats or 1 bar' : '0.5 s'}
          width={84}
          onCommit={(seconds) => set({ fadeInSeconds: seconds }, 'Fade in')}
        />
      </FigureRow>
      <FigureRow>
        <span>Fade out</span>
        <ValueField
          label="Fade out"
          shown={`${writeNumber(fadeOutSeconds, 2)} s`}
          parse={fade(fadeInSeconds)}
          example={grid ? '0.5 s, 2 beats or 1 bar' : '0.5 s'}
          width={84}
          onCommit={(seconds) => set({ fadeOutSeconds: seconds }, 'Fade out')}
        />
      </FigureRow>
      <TimeRows>
        {passage.changes.map((change) => (
          <ChangeRow key={figureKey(change.figure)} passage={passage} change={change} />
        ))}
      </TimeRows>
      {hasSteps(document, passage) && (
        <p>An equalizer of linear phase follows fades and lines in steps of a third of an octave or 1.5 dB.</p>
      )}
      <Loudness passage={passage} />
      <PanelLine>
        {isOpen && (
          <ToggleButton
            isSelected={isRecording}
            data-hint="What is moved while it plays becomes a line · R"
            onChange={(on) => useOpenPassage.of(desk).record(on)}
          >
            {isRecording ? 'Recording' : 'Record'}
          </ToggleButton>
        )}
        <TextButton data-hint="The others off, or all on again" onPress={() => soloPassage(desk, passage)}>
          Alone
        </TextButton>
        <TextButton data-hint="At the playhead" onPress={() => splitPassage(desk, passage)}>
          Split
        </TextButton>
        <TextButton data-hint="To be pasted at another place" onPress={() => usePassageWork.of(desk).copy(passage)}>
          Copy
        </TextButton>
        <TextButton
          data-hint="At the same place of every other part of this name"
          onPress={() => repeatPassage(desk, passage)}
        >
          Repeat
        </TextButton>
        <TextButton onPress={() => removePassage(desk, id)}>Remove</TextButton>
      </PanelLine>
    </Details>
  );
}

function ChangeRow({ passage, change }: { passage: Passage; change: PassageChange }) {
  const desk = useDesk();
  const document = useSongStore(({ state }) => state.document);
  const figure = figureOf(document, change.figure);
  const owner = ownerOf(document, change.figure);
  const edit = (to: Pick<PassageChange, 'value' | 'points'> | null, label: string) =>
    useSongStore
      .of(desk)
      .edit({ kind: 'passage.figure', passageId: passage.id, figure: change.figure, changes: { to } }, label);
  const points = (next: PassageChange['points']) =>
    edit(
      { value: next[0]?.value ?? change.value, points: [...next].sort((a, b) => a.atSeconds - b.atSeconds) },
      'Change a line',
    );
  const what = `${owner}: ${figure?.label}`;
  const part = partOf(document, change.figure);
  if (!figure || !owner || !part) return null;
  return (
    <>
      <li>
        <span title={owner}>
          {owner}: {writeChange(document, change)}
        </span>
        {figure.kind === 'figure' && change.points.length === 0 && typeof change.value === 'number' && (
          <ValueField
            label={what}
            shown={writeValue(change.figure, figure, change.value)}
            parse={(text) => parseValue(change.figure, figure, text)}
            example={writeValue(change.figure, figure, change.value)}
            width={72}
            look="plain"
            onCommit={(value) => edit({ value, points: [] }, 'Change a passage')}
          />
        )}
        {figure.kind === 'figure' && change.points.length === 0 && typeof change.value === 'number' && (
          <TextButton
            aria-label={`${what} as a line`}
            data-hint="From what it is in the song to what it is here, over the whole passage"
            onPress={() =>
              points([
                { atSeconds: 0, value: valueOf(part, change.figure.field) as number },
                { atSeconds: passage.endSeconds - passage.startSeconds, value: change.value as number },
              ])
            }
          >
            Line
          </TextButton>
        )}
        <TextButton
          aria-label={`${what}: as in the song`}
          data-hint="As in the rest of the song"
          onPress={() => edit(null, 'As in the song')}
        >
          ×
        </TextButton>
      </li>
      {figure.kind === 'figure' &&
        change.points.map((point, i) => (
          <Point key={`${figureKey(change.figure)} ${i}`}>
            <ValueField
              label={`${what}, time of point ${i + 1}`}
              shown={writeMoment(passage.startSeconds + point.atSeconds)}
              parse={momentWithin({ min: passage.startSeconds, max: passage.endSeconds })}
              example="1:05.25"
              width={76}
              look="plain"
              onCommit={(at) => points(change.points.with(i, { ...point, atSeconds: at - passage.startSeconds }))}
            />
            <ValueField
              label={`${what}, point ${i + 1}`}
              shown={writeValue(change.figure, figure, point.value)}
              parse={(text) => parseValue(change.figure, figure, text)}
              example={writeValue(change.figure, figure, point.value)}
              width={76}
              look="plain"
              onCommit={(value) => points(change.points.with(i, { ...point, value }))}
            />
            <TextButton
              aria-label={`${what}: another point behind point ${i + 1}`}
              onPress={() => {
                const next = change.points[i + 1];
                const atSeconds = next
                  ? (point.atSeconds + next.atSeconds) / 2
                  : passage.endSeconds - passage.startSeconds;
                points([
                  ...change.points,
                  { atSeconds, value: next ? between(figure, point.value, next.value, 0.5) : point.value },
                ]);
              }}
            >
              +
            </TextButton>
            <TextButton
              aria-label={`${what}: take point ${i + 1} away`}
              onPress={() => points(change.points.filter((_, at) => at !== i))}
            >
              ×
            </TextButton>
          </Point>
        ))}
    </>
  );
}

const lufs = (value: number | null) => (value === null ? 'silent' : `${writeNumber(value, 1)}`);

/** Just before, within, just behind: and a press that makes them one. */
function Loudness({ passage }: { passage: Passage }) {
  const desk = useDesk();
  const around = useEvening((state) => state.byPassage[passage.id]);
  const measuring = useEvening((state) => state.measuring);
  const revision = useSongStore(({ state }) => state.revision);
  const isBusy = measuring !== null;
  const by = around ? evenedByDb(around) : null;
  return (
    <>
      <p role="status" data-sound>
        {measuring === passage.id
          ? 'Measuring …'
          : around
            ? `LUFS before ${lufs(around.before)}, within ${lufs(around.within)}, after ${lufs(around.after)}${by === null ? '' : `: ${writeGain(-by)} beside them`}${around.revision === revision ? '' : ' (before the last change)'}`
            : ''}
      </p>
      <PanelLine>
        <TextButton
          isDisabled={isBusy}
          data-hint="How loud the mix is just before, within and just behind"
          onPress={() => void measureAround(desk, passage)}
        >
          Measure loudness
        </TextButton>
        <TextButton
          isDisabled={isBusy}
          data-hint="As loud as what lies around, by a level of the master within the passage"
          onPress={() => void evenOut(desk, passage.id)}
        >
          Even out
        </TextButton>
      </PanelLine>
    </>
  );
}

const Details = styled.div`
  margin: 4px 0 2px;
  > p {
    font-size: 12.5px;
  }
  ul {
    font-size: 12.5px;
  }
`;
const Point = styled.li`
  padding-left: 14px;
`;
