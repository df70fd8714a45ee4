import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { BandLevelsAnalyser, wholeRows, type LevelRows } from '@/core/measure';
import {
  mixTracks,
  MixMeasure,
  planRoom,
  proposeClaim,
  ROOM_LIMITS,
  ROOM_TARGET_DB,
  roomClearanceDb,
  roomMoves,
  roomOwner,
  roomStrength,
  usualRange,
  wholeRange,
  type RoomParty,
} from '@/core/mix';
import { emptySong, newTrack, type Song } from '@/core/song';
import { median, table } from './support';
import { MIDI_FOLDER, RATE, songStems } from './recordings/recordings';

/**
 * Overlaps and room for the whole mix on songs of a Debian package (`openttd-openmsx`), played into stems by `fluidsynth`, with claims as they
 * are proposed; and how long forty tracks of five minutes take. `room`, by name only: the stems have to be played.
 */
const SONGS = ['chuggachugga', 'midnight_snow_run', 'modern_motion', 'the_fast_route', 'train_filled_with_cash'];
/** What the measures know of instruments is their names: those of General MIDI, by family of eight programmes. */
const FAMILIES =
  'piano,vibraphone,organ,guitar,bass,strings,pad,trumpet,saxophone,flute,synth,pad,effects,banjo,percussion,effects'.split(
    ',',
  );
const SECONDS = 40;
const FIRST = 6;

/** A song of stems, each so many times over, and what is measured of it. */
function measured(names: readonly string[], times: number) {
  const stems = names
    .flatMap((name) => songStems(readFileSync(join(MIDI_FOLDER, `${name}.mid`)), name, SECONDS))
    .slice(0, 40);
  const levels: Record<string, LevelRows[]> = {};
  const tracks = stems.map(({ program, samples }, i) => {
    const part = program < 0 ? 'drum kit' : FAMILIES[program >> 3];
    const analyser = new BandLevelsAnalyser(RATE, 1);
    for (let round = 0; round < times; round++) analyser.push([samples]);
    const audioId = i.toString(16).padStart(64, '0');
    levels[audioId] = [wholeRows(analyser.finish())];
    const recording = { audioId, channels: 1, lengthFrames: times * samples.length } as const;
    return { ...newTrack(recording, { id: `${i}`, name: `${part} ${i + 1}`, ink: 0 }), part };
  });
  const song: Song = { ...emptySong('Bench'), tracks };
  const measure = new MixMeasure();
  const plain = mixTracks(song);
  const planned = (claimsOf: (id: string) => Song['tracks'][number]['claims']) =>
    measure.update(
      plain.map((track, i) => ({ ...track, claims: claimsOf(track.id), usual: usualRange(tracks[i].part) })),
      levels,
      wholeRange(song),
    );
  planned(() => []);
  const claims = new Map(
    tracks.map(({ id, part }) => {
      const { own, all, blocks } = measure.fields(id)!;
      const claim = proposeClaim(part, own, all, blocks);
      return [id, claim ? [claim] : []];
    }),
  );
  const { overlaps } = planned((id) => claims.get(id)!);
  const parties = tracks.map(({ id }): RoomParty => ({ id, claims: claims.get(id)!, field: measure.fields(id)!.own }));
  return { song, overlaps, parties, blocks: measure.fields('0')!.blocks };
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
const plans: (string | number)[][] = [
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
const pairs: (string | number)[][] = [
  ['song', 'overlaps', 'of the first six', 'raised by 3 dB and more', 'the others'],
];
for (const name of SONGS) {
  const { overlaps, parties, blocks } = measured([name], 1);
  const raised = overlaps.slice(0, FIRST).map((overlap) => {
    const two = [overlap.quieterId, overlap.louderId].map((id) => parties.find((party) => party.id === id)!) as [
      RoomParty,
      RoomParty,
    ];
    const choice = { ownerId: roomOwner(overlap, two), withBoost: false };
    const at = (strength: number) =>
      roomClearanceDb(overlap, roomMoves(overlap, two, strength, choice), two, blocks, RATE)!;
    const strength = roomStrength(overlap, two, blocks, RATE, { targetDb: at(0) + ROOM_TARGET_DB, ...choice });
    return at(strength) - at(0);
  });
  pairs.push([
    name,
    overlaps.length,
    raised.length,
    raised.filter((db) => db >= ROOM_TARGET_DB - 0.05).length,
    raised
      .filter((db) => db < ROOM_TARGET_DB - 0.05)
      .map((db) => `+${db.toFixed(1)} dB at full strength`)
      .join(', ') || '–',
  ]);
  const began = performance.now();
  const plan = planRoom(parties, blocks.count, { limits: ROOM_LIMITS, rateHz: RATE });
  const seconds = (performance.now() - began) / 1000;
  const below = plan.clearances.filter(({ beforeDb }) => beforeDb < ROOM_LIMITS.goalDb);
  const perTrack = parties.map(({ id }) => plan.moves.filter(({ trackId }) => trackId === id));
  plans.push([
    name,
    parties.length,
    below.length,
    mean(below.map(({ beforeDb }) => beforeDb)).toFixed(1),
    mean(below.map(({ afterDb }) => afterDb)).toFixed(1),
    plan.moves.length,
    Math.max(...perTrack.map(({ length }) => length)),
    Math.max(...perTrack.map((moves) => moves.reduce((sum, { lossLu }) => sum + Math.max(0, lossLu), 0))).toFixed(2),
    plan.lacks.map(({ why }) => why).join(', ') || '–',
    seconds.toFixed(2),
  ]);
}
console.log(`${table(pairs)}\n\n${table(plans)}\n`);

const forty = measured(SONGS, 7);
const times: number[] = [];
for (let round = 0; round < 3; round++) {
  const began = performance.now();
  const plan = planRoom(forty.parties, forty.blocks.count, { limits: ROOM_LIMITS, rateHz: RATE });
  times.push((performance.now() - began) / 1000);
  if (round === 0)
    console.log(
      `${forty.parties.length} tracks of 280 s: ${plan.moves.length} moves, ${plan.lacks.length} claims not reached`,
    );
}
console.log(`${median(times).toFixed(1)} s (${times.map((time) => time.toFixed(1)).join(', ')})`);
