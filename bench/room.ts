import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { BandLevelsAnalyser, wholeRows } from '@/core/measure';
import { mixTracks, MixMeasure, planRoom, proposeClaim, ROOM_LIMITS, wholeRange, type RoomTrack } from '@/core/mix';
import { emptySong, newTrack } from '@/core/song';
import { median, table } from './support';
import { MIDI_FOLDER, RATE, songStems } from './recordings/recordings';

/**
 * Room for the whole mix on songs of a Debian package (`openttd-openmsx`), played into stems by `fluidsynth`: claims as they are proposed,
 * moves as they are planned; and how long forty tracks take.
 */
const SONGS = ['chuggachugga', 'midnight_snow_run', 'modern_motion', 'the_fast_route', 'train_filled_with_cash'];
/** What the measures know of instruments is their names: those of General MIDI, by family of eight programmes. */
const FAMILIES = [
  'piano',
  'vibraphone',
  'organ',
  'guitar',
  'bass',
  'strings',
  'pad',
  'trumpet',
  'saxophone',
  'flute',
  'synth lead',
  'pad',
  'effects',
  'banjo',
  'percussion',
  'effects',
];
const SECONDS = 40;

const rows: (string | number)[][] = [
  [
    'song',
    'tracks',
    'claims below the goal',
    'mean clearance there, dB',
    'after',
    'moves',
    'most of a track',
    'most lost, LU',
    'not reached',
    'seconds',
  ],
];
for (const name of SONGS) {
  const stems = songStems(readFileSync(join(MIDI_FOLDER, `${name}.mid`)), name, SECONDS);
  const tracks = stems.map(({ channel, program, samples }) => {
    const part = program < 0 ? 'drum kit' : FAMILIES[program >> 3];
    const levels = new BandLevelsAnalyser(RATE, 1);
    levels.push([samples]);
    const audioId = channel.toString(16).padStart(64, '0');
    const track = newTrack(
      { audioId, channels: 1, lengthFrames: samples.length },
      { id: `${channel}`, name: part, ink: 0 },
    );
    return { track: { ...track, part }, rows: [wholeRows(levels.finish())] };
  });
  const song = { ...emptySong(name), tracks: tracks.map(({ track }) => track) };
  const levels = Object.fromEntries(tracks.map(({ track, rows: own }) => [track.audioId, own]));
  const measure = new MixMeasure();
  const claiming = mixTracks(song).map((track) => ({ ...track, claims: [] }));
  measure.take(claiming, levels, wholeRange(song));
  const parties = song.tracks.map(({ id, part }): RoomTrack => {
    const { own, all, blocks } = measure.fields(id)!;
    const claim = proposeClaim(part, own, all, blocks);
    return { id, claims: claim ? [claim] : [], field: own };
  });
  const { count } = measure.fields(song.tracks[0].id)!.blocks;
  const began = performance.now();
  const plan = planRoom(parties, count, { limits: ROOM_LIMITS, rateHz: RATE });
  const seconds = (performance.now() - began) / 1000;
  const below = plan.clearances.filter(({ beforeDb }) => beforeDb < ROOM_LIMITS.goalDb);
  const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
  const perTrack = parties.map(({ id }) => plan.moves.filter(({ trackId }) => trackId === id));
  rows.push([
    name,
    parties.length,
    below.length,
    mean(below.map(({ beforeDb }) => beforeDb)).toFixed(1),
    mean(below.map(({ afterDb }) => afterDb)).toFixed(1),
    plan.moves.length,
    Math.max(...perTrack.map(({ length }) => length)),
    Math.max(...perTrack.map((moves) => moves.reduce((sum, { lossLu }) => sum + Math.max(0, lossLu), 0))).toFixed(2),
    plan.lacks.map(({ why }) => why).join(' ') || '–',
    seconds.toFixed(2),
  ]);
  const nameOf = (id: string) => song.tracks.find((track) => track.id === id)!.name;
  for (const { kind, trackId, forId, band, gainDb, wins, lossLu } of plan.moves)
    console.log(
      `${name}: ${kind} ${nameOf(trackId)} for ${nameOf(forId)}: ${band?.type ?? 'level'} ${Math.round(band?.frequencyHz ?? 0)} Hz ${gainDb} dB; ${lossLu.toFixed(2)} LU; ${wins.map((win) => `${nameOf(win.trackId)} ${win.beforeDb.toFixed(1)}→${win.afterDb.toFixed(1)}`).join(', ')}`,
    );
}
console.log(table(rows));

/** Forty tracks: those of all songs at once, five minutes of them. */
const times: number[] = [];
const all = SONGS.flatMap((name) =>
  songStems(readFileSync(join(MIDI_FOLDER, `${name}.mid`)), name, SECONDS).map((stem) => ({ name, ...stem })),
).slice(0, 40);
{
  const tracks = all.map(({ program, samples }, i) => {
    const part = program < 0 ? 'drum kit' : FAMILIES[program >> 3];
    const analyser = new BandLevelsAnalyser(RATE, 1);
    for (let round = 0; round < 7; round++) analyser.push([samples]);
    const audioId = i.toString(16).padStart(64, '0');
    return {
      track: {
        ...newTrack({ audioId, channels: 1, lengthFrames: 7 * samples.length }, { id: `${i}`, name: part, ink: 0 }),
        part,
      },
      rows: [wholeRows(analyser.finish())],
    };
  });
  const song = { ...emptySong('forty'), tracks: tracks.map(({ track }) => track) };
  const measure = new MixMeasure();
  measure.take(
    mixTracks(song).map((track) => ({ ...track, claims: [] })),
    Object.fromEntries(tracks.map(({ track, rows: own }) => [track.audioId, own])),
    wholeRange(song),
  );
  const parties = song.tracks.map(({ id, part }): RoomTrack => {
    const { own, all: whole, blocks } = measure.fields(id)!;
    const claim = proposeClaim(part, own, whole, blocks);
    return { id, claims: claim ? [claim] : [], field: own };
  });
  for (let round = 0; round < 3; round++) {
    const began = performance.now();
    const plan = planRoom(parties, measure.fields('0')!.blocks.count, { limits: ROOM_LIMITS, rateHz: RATE });
    times.push((performance.now() - began) / 1000);
    if (round === 0)
      console.log(`\n${parties.length} tracks: ${plan.moves.length} moves, ${plan.lacks.length} claims not reached`);
  }
}
console.log(`${median(times).toFixed(1)} s (${times.map((time) => time.toFixed(1)).join(', ')})`);
