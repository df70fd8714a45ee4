import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseMidi, writeMidi, type MidiEvent } from 'midi-file';
import { call, decode, kept, MIDI_FOLDER, RATE } from './recordings';

/** A song whose tempo and bars are known, since it is played from a file that says them. */
export interface KnownSong {
  name: string;
  /** Songs of one file are learnt from, or reported, together. */
  file: string;
  bpm: number;
  beats: 3 | 4;
  /** Where its first bar begins. */
  startSeconds: number;
  make: () => Float32Array;
}

const SECONDS = 70;
const SOUND_FONT = '/usr/share/sounds/sf2/TimGM6mb.sf2';
/** Written in quarter notes of which three are two beats: what is heard is two thirds of their tempo. */
const DOTTED = new Set(['busy_schedule', 'the_fast_route']);
/** Bars of five and six beats, which are not looked for. */
const OTHER_BARS = new Set(['5432gone_redfarn', 'the_hobo_redfarn']);

interface TimedEvent {
  tick: number;
  event: MidiEvent;
}

/** The events of a file in their order. */
function readSong(file: string) {
  const { header, tracks } = parseMidi(readFileSync(join(MIDI_FOLDER, `${file}.mid`)));
  const events = tracks.flatMap((track) => {
    let tick = 0;
    return track.flatMap((event): TimedEvent[] => {
      tick += event.deltaTime;
      return event.type === 'endOfTrack' ? [] : [{ tick, event }];
    });
  });
  const ticksPerBeat = header.ticksPerBeat!;
  const tempo = events.map(({ event }) => event).find((event) => event.type === 'setTempo');
  const metre = events.map(({ event }) => event).find((event) => event.type === 'timeSignature');
  return {
    ticksPerBeat,
    bpm: tempo ? 60e6 / tempo.microsecondsPerBeat : 120,
    beats: metre ? (metre.numerator * 4) / metre.denominator : 4,
    events,
  };
}

/** The song without the last beat of each bar of four. */
const inThree = (events: readonly TimedEvent[], ticksPerBeat: number): TimedEvent[] =>
  events.flatMap(({ tick, event }) => {
    const bar = Math.floor(tick / (4 * ticksPerBeat));
    const within = tick - 4 * bar * ticksPerBeat;
    // What comes a little early belongs to the beat that is left out.
    if (event.type === 'noteOn' && event.velocity > 0 && within >= 2.94 * ticksPerBeat) return [];
    return { tick: 3 * bar * ticksPerBeat + Math.min(within, 3 * ticksPerBeat), event };
  });

function played(name: string, ticksPerBeat: number, events: readonly TimedEvent[], leadTicks: number): Float32Array {
  const late = events.map(({ tick, event }) => ({
    tick: tick === 0 && event.type !== 'noteOn' ? 0 : tick + leadTicks,
    event,
  }));
  late.sort((first, second) => first.tick - second.tick);
  let last = 0;
  const track = late.map(({ tick, event }) => {
    const deltaTime = tick - last;
    last = tick;
    return { ...event, deltaTime };
  });
  const [from, to] = ['mid', 'wav'].map((end) => join(tmpdir(), `orvid-${name}-${process.pid}.${end}`));
  const end = { deltaTime: 0, meta: true, type: 'endOfTrack' } as const;
  writeFileSync(
    from,
    Buffer.from(writeMidi({ header: { format: 0, numTracks: 1, ticksPerBeat }, tracks: [[...track, end]] })),
  );
  call('fluidsynth', ['-ni', '-q', '-R', '0', '-C', '0', '-r', `${RATE}`, '-F', to, SOUND_FONT, from]);
  return decode(to).slice(0, SECONDS * RATE);
}

/** A song that is played by a band without a click: 3 % to and fro, and 0.4 % from beat to beat. */
export interface WanderingSong {
  name: string;
  /** When its beats come, seconds. */
  beatSeconds: number[];
  make: () => Float32Array;
}
const WANDERING = [
  'careless_perc_redfarn',
  'city_blues_redfarn',
  'harp_harmony',
  'keep_on_rolling',
  'modern_motion',
  'no_work_song_redfarn',
  'relax_song',
  'tttheme2',
];

export const wanderingSongs = (): WanderingSong[] =>
  WANDERING.map((file) => {
    const { ticksPerBeat, bpm, events } = readSong(file);
    const beatSeconds = [0];
    const beats = Math.floor((SECONDS * bpm) / 60);
    const tempos = Array.from({ length: beats }, (_, beat): TimedEvent => {
      const seconds = (60 / bpm) * (1 + 0.03 * Math.sin(beat / 17) + 0.004 * Math.sin(13 * beat));
      beatSeconds.push(beatSeconds[beat] + seconds);
      const event = {
        deltaTime: 0,
        meta: true,
        type: 'setTempo',
        microsecondsPerBeat: Math.round(1e6 * seconds),
      } as const;
      return { tick: beat * ticksPerBeat, event };
    });
    const notes = events.filter(({ tick, event }) => event.type !== 'setTempo' && tick < beats * ticksPerBeat);
    const silence = Array.from({ length: 16 }, (_, channel): TimedEvent => {
      const event = { deltaTime: 0, type: 'controller', channel, controllerType: 120, value: 0 } as const;
      return { tick: beats * ticksPerBeat, event };
    });
    const make = () => played(file, ticksPerBeat, [...tempos, ...notes, ...silence], 0);
    return { name: file, beatSeconds, make: () => kept(`wandering ${file}`, make) };
  });

/** Songs of the package `openttd-openmsx`, each after some seconds of silence; those in four also without the last beat of each bar. */
export function knownSongs(): KnownSong[] {
  const files = readdirSync(MIDI_FOLDER).filter((file) => file.endsWith('.mid'));
  return files
    .map((file) => file.replace('.mid', ''))
    .filter((file) => !OTHER_BARS.has(file))
    .sort()
    .flatMap((file, i) => {
      const { ticksPerBeat, bpm, beats, events } = readSong(file);
      const forms = beats === 4 && !DOTTED.has(file) ? ([beats, 3] as const) : [beats as 3 | 4];
      return forms.map((wanted, form): KnownSong => {
        const leadTicks = Math.round((((0.3 + 0.274 * i + 0.137 * form) % 1.8) * bpm * ticksPerBeat) / 60);
        const name = form === 0 ? file : `${file} in three`;
        const make = () =>
          played(
            name.replaceAll(' ', '-'),
            ticksPerBeat,
            wanted === beats ? events : inThree(events, ticksPerBeat),
            leadTicks,
          );
        return {
          name,
          file,
          bpm: DOTTED.has(file) ? (bpm * 2) / 3 : bpm,
          beats: wanted,
          startSeconds: (leadTicks / ticksPerBeat) * (60 / bpm),
          make: () => kept(`bars ${name}`, make),
        };
      });
    });
}
