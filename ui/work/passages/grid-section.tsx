'use client';
import { useRef, useState } from 'react';
import {
  barAt,
  metreAt,
  plainGrid,
  quarterAt,
  readMidiTimes,
  SURE_FROM,
  tappedTempo,
  withMetreFrom,
  withTempoFrom,
  type FoundTempo,
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
  const unit = ([1, 2, 4, 8, 16, 32] as const).find((one) => one === Number(match?.[2]));
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
      <FoundTempoLine grid={grid} onSet={set} />
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
                  onSet({ ...grid, metres: grid.metres.filter((one) => one.bar !== bar) }, 'Remove a metre')
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

/** What the recordings say, with how sure it is; it is offered, and taken by a press. */
function FoundTempoLine({ grid, onSet }: { grid: Grid | null; onSet: GridProps['onSet'] }) {
  const desk = useDesk();
  const [state, setState] = useState<{ found: FoundTempo | null } | 'looking' | null>(null);
  const look = async () => {
    setState('looking');
    try {
      setState(await request<{ found: FoundTempo | null }>('GET', `/api/songs/${desk.songId}/tempo`));
    } catch (error) {
      setState(null);
      const { message, kept } = asOrvidError(error);
      tellError(desk, { message: `The tempo could not be looked for. ${message}`, kept });
    }
  };
  const found = state !== null && state !== 'looking' ? state.found : null;
  const take = ({ bpm, beatSeconds }: FoundTempo) => {
    const metre = grid ? metreAt(grid, 1) : { beats: 4, unit: 4 as const };
    const rounded = Math.round(bpm * 100) / 100;
    onSet(
      plainGrid(
        Math.abs(bpm - Math.round(bpm)) < 0.02 ? Math.round(bpm) : rounded,
        Math.round(beatSeconds * 1000) / 1000,
        metre.beats,
        metre.unit,
      ),
      'Tempo by the recordings',
    );
  };
  return (
    <PanelLine>
      <TextButton
        isDisabled={state === 'looking'}
        data-hint="Listens to when things begin in the recordings"
        onPress={() => void look()}
      >
        {state === 'looking' ? 'Listening …' : 'Find it in the recordings'}
      </TextButton>
      {state !== null && state !== 'looking' && (
        <span role="status">
          {found && found.sureness >= SURE_FROM ? (
            <>
              {writeNumber(found.bpm, 1)}, {Math.round(100 * found.sureness)} % sure{' '}
              <TextButton onPress={() => take(found)}>Take it</TextButton>
            </>
          ) : found ? (
            <>
              Not sure: perhaps {writeNumber(found.bpm, 0)} ({Math.round(100 * found.sureness)} %). Tap it.
            </>
          ) : (
            'Too little begins in them to tell.'
          )}
        </span>
      )}
    </PanelLine>
  );
}
