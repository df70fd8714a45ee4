'use client';
import { useRef, useState } from 'react';
import {
  barAt,
  barsLater,
  gridFrom,
  pacedGrid,
  plainGrid,
  quarterAt,
  readMidiTimes,
  SURE_FROM,
  tappedTempo,
  withMetreFrom,
  withTempoFrom,
  type FoundGrid,
} from '@/core/grid';
import { parseSeconds, writeMoment, writeNumber } from '@/core/formats';
import { TEMPO_RANGE, type Grid } from '@/core/song';
import { asOrvidError } from '@/core/errors';
import { Button, TextButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { PanelLine, PanelRows } from '../../kit/controls/panel';
import { ValueField } from '../../kit/controls/value-field';
import { useDesk } from '../../window/desk/desk';
import { tell, tellError } from '../../window/notices/notices';
import { request } from '../../window/server/request';
import { useSong, useSongStore } from '../../window/song/song-store';
import { positionSeconds } from '../../window/sound/audio-state';
import { SNAP_CHOICES, SNAP_NAMES, useSnap } from '../../window/view/snap';

/** Pauses between taps that are longer begin anew, seconds. */
const TAPS_APART = 3;

const parseTempo = (text: string): number | null => {
  const bpm = Number(
    text
      .replace(',', '.')
      .replace(/bpm|♩|=/gi, '')
      .trim(),
  );
  return bpm >= TEMPO_RANGE.min && bpm <= TEMPO_RANGE.max ? bpm : null;
};
const parseMetre = (text: string): { beats: number; unit: Grid['metres'][number]['unit'] } | null => {
  const match = /^(\d+)\s*\/\s*(\d+)$/.exec(text.trim());
  const beats = Number(match?.[1]);
  const unit = ([1, 2, 4, 8, 16, 32] as const).find((choice) => choice === Number(match?.[2]));
  return unit && beats >= 1 && beats <= 32 ? { beats, unit } : null;
};

/** Where bars and beats lie, and what sticks to them. */
export function GridSection() {
  const desk = useDesk();
  const grid = useSong((song) => song.grid);
  const { snap, setSnap } = useSnap();
  const set = (next: Grid | null, label: string) =>
    useSongStore.of(desk).edit({ kind: 'song.set', changes: { grid: next } }, label);
  const taps = useRef<number[]>([]);
  const tap = () => {
    const now = performance.now() / 1000;
    const last = taps.current.at(-1);
    taps.current = last !== undefined && now - last < TAPS_APART ? [...taps.current, now].slice(-32) : [now];
    const bpm = tappedTempo(taps.current);
    if (bpm === null || bpm < TEMPO_RANGE.min || bpm > TEMPO_RANGE.max) return;
    const rounded = Math.round(bpm * 10) / 10;
    const next = grid ? { ...grid, tempos: [{ quarter: 0, bpm: rounded }] } : plainGrid(rounded);
    useSongStore.of(desk).editByKey({ kind: 'song.set', changes: { grid: next } }, 'Tap the tempo', 'tap');
  };
  return (
    <>
      <h2>Bars and beats</h2>
      {grid ? <GridFigures grid={grid} onSet={set} /> : <p>Nobody has said yet where they lie.</p>}
      <PanelLine>
        <Button data-hint="Press it along with the beat, three times or more" onPress={tap}>
          Tap
        </Button>
        <MidiButton onSet={set} />
        {!grid && (
          <TextButton
            data-hint="Four quarters at 120, from the beginning of the song"
            onPress={() => set(plainGrid(120), 'Bars and beats')}
          >
            Type it
          </TextButton>
        )}
        {grid && <TextButton onPress={() => set(null, 'No bars and beats')}>Forget</TextButton>}
      </PanelLine>
      {grid && <GridNudges grid={grid} onSet={set} />}
      <FoundGridLine onSet={set} />
      {grid && (
        <FigureRow>
          <span>Sticks to</span>
          <Choice
            label="What times stick to; with Shift, freely"
            value={snap}
            options={SNAP_CHOICES.map((id) => ({ id, name: SNAP_NAMES[id] }))}
            onChange={setSnap}
            width={130}
          />
        </FigureRow>
      )}
    </>
  );
}

interface GridProps {
  grid: Grid;
  onSet: (grid: Grid | null, label: string) => void;
}

function GridFigures({ grid, onSet }: GridProps) {
  const desk = useDesk();
  const [first, ...later] = grid.tempos;
  const [metre, ...laterMetres] = grid.metres;
  const barHere = () => Math.max(1, barAt(grid, quarterAt(grid, positionSeconds(desk))).bar);
  return (
    <>
      <FigureRow>
        <span>Tempo</span>
        <ValueField
          label="Tempo"
          shown={writeNumber(first.bpm, 2)}
          parse={parseTempo}
          example="96 or 118.5 quarter notes a minute"
          hint="Quarter notes a minute · ↑ ↓ step it"
          width={76}
          onCommit={(bpm) => onSet({ ...grid, tempos: [{ quarter: 0, bpm }, ...later] }, 'Tempo')}
          onStep={(direction, size) =>
            useSongStore.of(desk).editByKey(
              {
                kind: 'song.set',
                changes: {
                  grid: {
                    ...grid,
                    tempos: [
                      {
                        quarter: 0,
                        bpm: Math.min(
                          TEMPO_RANGE.max,
                          Math.max(
                            TEMPO_RANGE.min,
                            Math.round(
                              (first.bpm + direction * (size === 'fine' ? 0.1 : size === 'coarse' ? 10 : 1)) * 100,
                            ) / 100,
                          ),
                        ),
                      },
                      ...later,
                    ],
                  },
                },
              },
              'Tempo',
              'tempo',
            )
          }
        />
        <i>quarters a minute</i>
      </FigureRow>
      <FigureRow>
        <span>Metre</span>
        <ValueField
          label="Metre"
          shown={`${metre.beats}/${metre.unit}`}
          parse={parseMetre}
          example="4/4, 3/4 or 6/8"
          width={76}
          onCommit={({ beats, unit }) => onSet({ ...grid, metres: [{ bar: 1, beats, unit }, ...laterMetres] }, 'Metre')}
        />
      </FigureRow>
      <FigureRow>
        <span>Bar 1 at</span>
        <ValueField
          label="Bar 1 at"
          shown={writeMoment(grid.startSeconds)}
          parse={parseSeconds}
          example="0:01.250"
          width={76}
          onCommit={(startSeconds) => onSet({ ...grid, startSeconds }, 'Bar 1')}
        />
        <TextButton
          data-hint="Bar 1 begins where the playhead stands"
          onPress={() => onSet({ ...grid, startSeconds: Math.round(positionSeconds(desk) * 1e4) / 1e4 }, 'Bar 1')}
        >
          Here
        </TextButton>
      </FigureRow>
      {(later.length > 0 || laterMetres.length > 0) && (
        <PanelRows>
          {later.map(({ quarter, bpm }) => (
            <li key={`tempo ${quarter}`}>
              <span>
                From bar {barAt(grid, quarter).bar}: {writeNumber(bpm, 2)}
              </span>
              <TextButton
                aria-label={`Take the tempo from bar ${barAt(grid, quarter).bar} away`}
                onPress={() =>
                  onSet({ ...grid, tempos: grid.tempos.filter((tempo) => tempo.quarter !== quarter) }, 'Remove a tempo')
                }
              >
                Remove
              </TextButton>
            </li>
          ))}
          {laterMetres.map(({ bar, beats, unit }) => (
            <li key={`metre ${bar}`}>
              <span>
                From bar {bar}: {beats}/{unit}
              </span>
              <TextButton
                aria-label={`Take the metre from bar ${bar} away`}
                onPress={() =>
                  onSet({ ...grid, metres: grid.metres.filter((entry) => entry.bar !== bar) }, 'Remove a metre')
                }
              >
                Remove
              </TextButton>
            </li>
          ))}
        </PanelRows>
      )}
      <FigureRow>
        <span>From here</span>
        <ValueField
          key={`change ${grid.tempos.length} ${grid.metres.length}`}
          label="Tempo or metre from this bar on"
          shown=""
          placeholder="92 or 3/4"
          parse={(text) => parseMetre(text) ?? parseTempo(text)}
          example="92 or 3/4"
          hint="A tempo or a metre that holds from the bar at the playhead on"
          width={76}
          onCommit={(typed) => {
            const bar = barHere();
            if (typeof typed === 'number') onSet(withTempoFrom(grid, bar, typed), 'Another tempo');
            else onSet(withMetreFrom(grid, bar, typed.beats, typed.unit), 'Another metre');
          }}
        />
        <i>this bar on</i>
      </FigureRow>
    </>
  );
}

/** Tempos, metres and markers of a Standard MIDI File. */
function MidiButton({ onSet }: Pick<GridProps, 'onSet'>) {
  const desk = useDesk();
  const input = useRef<HTMLInputElement>(null);
  const read = async (file: File) => {
    try {
      const { grid, parts } = readMidiTimes(new Uint8Array(await file.arrayBuffer()), file.name);
      onSet(grid, 'Bars and beats from a MIDI file');
      if (parts.length === 0) return;
      const before = useSongStore.of(desk).state.document.parts;
      if (before.length === 0)
        useSongStore.of(desk).edit({ kind: 'song.set', changes: { parts } }, 'Parts from a MIDI file');
      else tell(desk, `The file has ${parts.length} markers; the song keeps the parts that it has.`);
    } catch (error) {
      tellError(desk, asOrvidError(error));
    }
  };
  return (
    <>
      <Button data-hint="Tempos, metres and markers of a Standard MIDI File" onPress={() => input.current?.click()}>
        From a MIDI file…
      </Button>
      <input
        ref={input}
        type="file"
        accept=".mid,.midi,audio/midi"
        aria-label="A Standard MIDI File"
        hidden
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) void read(file);
        }}
      />
    </>
  );
}

/** What was found, in words. */
const describeFound = (found: FoundGrid): string => {
  const { otherBpm, beats, barSeconds } = found;
  const write = (bpm: number) => writeNumber(bpm, Number.isInteger(bpm) ? 0 : 1);
  const all = gridFrom(found).tempos.map(({ bpm }) => bpm);
  const [least, most] = [Math.min(...all), Math.max(...all)].map(write);
  const tempo = all.length === 1 ? least : `${least} to ${most}, as it is played,`;
  const other = otherBpm === null ? '' : ` (or ${write(Math.round(otherBpm * 10) / 10)})`;
  return `${tempo}${other} in ${beats}/4, bar 1 at ${writeMoment(barSeconds)}`;
};

const intoSight = (answer: HTMLElement | null) => {
  answer?.scrollIntoView({ block: 'nearest' });
};

/** What the recordings say, with how sure it is; it is offered, and taken by a press. */
function FoundGridLine({ onSet }: Pick<GridProps, 'onSet'>) {
  const desk = useDesk();
  const [state, setState] = useState<{ found: FoundGrid | null } | 'looking' | null>(null);
  const look = async () => {
    setState('looking');
    try {
      setState(await request<{ found: FoundGrid | null }>('GET', `/api/songs/${desk.songId}/grid`));
    } catch (error) {
      setState(null);
      const { message, kept } = asOrvidError(error);
      tellError(desk, { message: `Bars and beats could not be looked for. ${message}`, kept });
    }
  };
  const found = state !== null && state !== 'looking' ? state.found : null;
  const percent = (share: number) => `${Math.round(100 * share)} %`;
  return (
    <>
      <PanelLine>
        <TextButton
          isDisabled={state === 'looking'}
          data-hint="Listens to when things begin in the recordings, and when chords change"
          onPress={() => void look()}
        >
          {state === 'looking' ? 'Listening …' : 'Find them in the recordings'}
        </TextButton>
      </PanelLine>
      {state !== null && state !== 'looking' && (
        <PanelLine>
          <span role="status" ref={intoSight}>
            {found && found.sureness >= SURE_FROM ? (
              <>
                {describeFound(found)}. Sure of the tempo: {percent(found.sureness)}, of the metre:{' '}
                {percent(found.beatsSureness)}, of where bars begin: {percent(found.barSureness)}.{' '}
                <TextButton onPress={() => onSet(gridFrom(found), 'Bars and beats by the recordings')}>
                  Take it
                </TextButton>
              </>
            ) : found ? (
              <>
                Not sure: perhaps {writeNumber(found.bpm, 0)} ({percent(found.sureness)}). Tap it.
              </>
            ) : (
              'Too little begins in them to tell.'
            )}
          </span>
        </PanelLine>
      )}
    </>
  );
}

/** A grid that is nearly right: felt at half or double the tempo, or with its bars a beat off. */
function GridNudges({ grid, onSet }: GridProps) {
  const canPace = (times: number) =>
    grid.tempos.every(({ bpm }) => bpm * times >= TEMPO_RANGE.min && bpm * times <= TEMPO_RANGE.max);
  return (
    <PanelLine>
      <TextButton
        isDisabled={!canPace(0.5)}
        data-hint="Half the tempo; what lies where stays"
        onPress={() => onSet(pacedGrid(grid, 0.5), 'Half the tempo')}
      >
        Half
      </TextButton>
      <TextButton
        isDisabled={!canPace(2)}
        data-hint="Double the tempo; what lies where stays"
        onPress={() => onSet(pacedGrid(grid, 2), 'Double the tempo')}
      >
        Double
      </TextButton>
      <TextButton
        data-hint="The first bar begins on the beat after the one on which it does now"
        onPress={() => onSet(barsLater(grid), 'Bars a beat later')}
      >
        Bars a beat later
      </TextButton>
    </PanelLine>
  );
}
