import { parseMidi } from 'midi-file';
import { OrvidError } from '../errors';
import { nameWithin } from '../formats/text';
import { TEMPO_RANGE, type Grid, type SongPart } from '../song';
import { barQuarters, barStart, secondsAt } from './grid';

/** What a Standard MIDI File says of a song's time. */
export interface MidiTimes {
  grid: Grid;
  /** Its markers and cue points. */
  parts: SongPart[];
}

const refused = (name: string, why: string) =>
  new OrvidError('invalid-input', `“${name}” ${why}`, 'The grid is as it was. Choose a Standard MIDI File (.mid).');

/** Without a tempo of its own a file has this: Standard MIDI Files 1.0 (RP-001). */
const DEFAULT_BPM = 120;
const UNITS = [1, 2, 4, 8, 16, 32] as const;

/**
 * Tempos, metres and markers of a Standard MIDI File (RP-001), formats 0 and 1.
 * @param name of the file, for messages
 * @throws OrvidError `invalid-input` for what is no such file, has no beats (SMPTE time), or tempos that no grid takes
 */
export function readMidiTimes(bytes: Uint8Array, name: string): MidiTimes {
  let parsed: ReturnType<typeof parseMidi>;
  try {
    parsed = parseMidi(bytes);
  } catch (thrown) {
    throw refused(
      name,
      `cannot be read as a Standard MIDI File: ${thrown instanceof Error ? thrown.message : String(thrown)}.`,
    );
  }
  const { ticksPerBeat } = parsed.header;
  if (!ticksPerBeat) throw refused(name, 'counts in frames of film and holds no beats.');
  const events = parsed.tracks
    .flatMap((track) => {
      let tick = 0;
      return track.map((event) => ({ ...event, quarter: (tick += event.deltaTime) / ticksPerBeat }));
    })
    .sort((a, b) => a.quarter - b.quarter);
  const grid: Grid = { startSeconds: 0, tempos: [], metres: [] };
  for (const event of events) {
    if (event.type === 'setTempo') addTempo(grid, event.quarter, 60e6 / event.microsecondsPerBeat, name);
    if (event.type === 'timeSignature') addMetre(grid, event.quarter, event.numerator, event.denominator, name);
  }
  if (grid.tempos[0]?.quarter !== 0) grid.tempos.unshift({ quarter: 0, bpm: DEFAULT_BPM });
  if (grid.metres[0]?.bar !== 1) grid.metres.unshift({ bar: 1, beats: 4, unit: 4 });
  const named = events.flatMap((event) =>
    (event.type === 'marker' || event.type === 'cuePoint') && event.text.trim() !== ''
      ? [{ name: nameWithin(event.text.trim()), startSeconds: secondsAt(grid, event.quarter) }]
      : [],
  );
  return {
    grid,
    parts: named.filter(({ startSeconds }, i) => named[i - 1]?.startSeconds !== startSeconds).slice(0, 200),
  };
}

function addTempo({ tempos }: Grid, quarter: number, bpm: number, name: string): void {
  if (!(bpm >= TEMPO_RANGE.min && bpm <= TEMPO_RANGE.max))
    throw refused(
      name,
      `has a tempo of ${bpm.toFixed(1)}; ${TEMPO_RANGE.min} to ${TEMPO_RANGE.max} quarter notes a minute can be taken.`,
    );
  if (tempos.at(-1)?.quarter === quarter) tempos.pop();
  if (tempos.length === 1000) throw refused(name, 'has more than 1000 tempos.');
  tempos.push({ quarter, bpm });
}

/** A metre begins with a bar: one that is written within a bar counts from the next. */
function addMetre(grid: Grid, quarter: number, beats: number, unit: number, name: string): void {
  const known = UNITS.find((choice) => choice === unit);
  if (!known || beats < 1 || beats > 32) throw refused(name, `has a metre of ${beats}/${unit}, which cannot be taken.`);
  const last = grid.metres.at(-1) ?? { bar: 1, beats: 4, unit: 4 as const };
  const from = grid.metres.length === 0 ? 0 : barStart(grid, last.bar);
  const bar = last.bar + Math.ceil((quarter - from) / barQuarters(last) - 1e-6);
  if (grid.metres.at(-1)?.bar === bar) grid.metres.pop();
  else if (grid.metres.length === 0 && bar > 1) grid.metres.push({ bar: 1, beats: 4, unit: 4 });
  grid.metres.push({ bar, beats, unit: known });
}
