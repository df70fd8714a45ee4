import { STEPS_PER_SECOND, type FrequencyBand } from '../../measure';
import { emptySong, newTrack } from '../../song';
import { mixTracks } from '../gains';
import { MixMeasure } from '../mix-measure';
import { allRows, audioIdOf, levelsWith } from '../testing';
import { planRoom, ROOM_LIMITS, type RoomLimits, type RoomTrack, type RoomOptions } from '.';

const RATE = 48000;
const SECONDS = 20;
type Part = Parameters<typeof levelsWith>[1][number];

/** Tracks of levels over time, as they stand against each other in a mix. */
function mixOf(
  parts: Readonly<Record<string, { sound: readonly Part[]; claims?: readonly FrequencyBand[]; kin?: string[] }>>,
) {
  const ids = Object.keys(parts);
  const song = {
    ...emptySong('Test'),
    tracks: ids.map((id) =>
      newTrack({ audioId: audioIdOf(id), channels: 1, lengthFrames: SECONDS * RATE }, { id, name: id, ink: 0 }),
    ),
  };
  const levels = allRows(Object.fromEntries(ids.map((id) => [audioIdOf(id), levelsWith(SECONDS, parts[id].sound)])));
  const measure = new MixMeasure();
  const claiming = mixTracks(song).map((track) => ({ ...track, claims: parts[track.id].claims ?? [] }));
  measure.measureAll(claiming, levels, { from: 0, to: SECONDS * STEPS_PER_SECOND });
  const blocks = measure.fields(ids[0])!.blocks.count;
  const tracks = ids.map((id): RoomTrack => ({
    id,
    claims: parts[id].claims ?? [],
    kin: parts[id].kin,
    field: measure.fields(id)!.own,
  }));
  return (limits: Partial<RoomLimits> = {}, options: Partial<RoomOptions> = {}) =>
    planRoom(tracks, blocks, { limits: { ...ROOM_LIMITS, ...limits }, rateHz: RATE, ...options });
}

const voice = { sound: [{ lowHz: 300, highHz: 3000, db: -42 }], claims: [{ lowHz: 400, highHz: 2500 }] };
const over = (plan: ReturnType<ReturnType<typeof mixOf>>, id: string) =>
  plan.clearances.find(({ trackId }) => trackId === id)!;

test('who stands in a claim gives way there, no deeper than allowed, until the goal is reached', () => {
  const plan = mixOf({ v: voice, g: { sound: [{ lowHz: 150, highHz: 6000, db: -42 }] } })({ boosts: false });
  expect(plan.moves).toHaveLength(1);
  const [move] = plan.moves;
  expect(move).toMatchObject({ kind: 'cut', trackId: 'g', forId: 'v', band: { type: 'bell' } });
  expect(move.band!.frequencyHz).toBeGreaterThan(600);
  expect(move.band!.frequencyHz).toBeLessThan(1600);
  expect(move.gainDb).toBeGreaterThanOrEqual(-6);
  expect(over(plan, 'v').beforeDb).toBeLessThan(0.5);
  expect(over(plan, 'v').afterDb).toBeGreaterThan(2.7);
  expect(move.wins[0].trackId).toBe('v');
  expect(plan.lacks).toEqual([]);
});

test('who stands clear asks for nothing; nor does one that is out of the way, or one source with it', () => {
  const clear = mixOf({ v: voice, g: { sound: [{ lowHz: 150, highHz: 6000, db: -60 }] } })();
  expect(clear.moves).toEqual([]);
  const apart = mixOf({ v: voice, b: { sound: [{ lowHz: 40, highHz: 120, db: -30 }] } })();
  expect(apart.moves).toEqual([]);
  const kin = mixOf({ v: { ...voice, kin: ['g'] }, g: { sound: voice.sound, kin: ['v'] } })();
  expect(kin.moves).toEqual([]);
});

test('where the two meet only now and then the band gives way; where that is not wanted it stays', () => {
  const parts = {
    v: { ...voice, sound: [{ ...voice.sound[0], from: 0, to: 6 }] },
    g: { sound: [{ lowHz: 150, highHz: 6000, db: -42 }] },
  };
  expect(mixOf(parts)({ boosts: false }).moves.map(({ kind }) => kind)).toEqual(['gives-way']);
  expect(mixOf(parts)({ boosts: false, givingWay: false }).moves.map(({ kind }) => kind)).toEqual(['cut']);
});

test('one whose lows are in a bass’s way, and who has next to nothing there, gets an end', () => {
  const plan = mixOf({
    b: { sound: [{ lowHz: 50, highHz: 160, db: -48 }], claims: [{ lowHz: 55, highHz: 150 }] },
    g: {
      sound: [
        { lowHz: 40, highHz: 160, db: -49 },
        { lowHz: 400, highHz: 5000, db: -30 },
      ],
    },
  })({ boosts: false });
  expect(plan.moves[0]).toMatchObject({ kind: 'end', trackId: 'g', band: { type: 'high-pass' } });
  expect(plan.moves[0].lossLu).toBeLessThan(0.2);
  expect(over(plan, 'b').afterDb - over(plan, 'b').beforeDb).toBeGreaterThan(1.5);
});

test('what cannot be reached is said, with who stands there and why', () => {
  const buried = mixOf({ v: voice, g: { sound: [{ lowHz: 150, highHz: 6000, db: -20 }] } })({
    mostMoves: 1,
    boosts: false,
  });
  expect(buried.lacks).toMatchObject([{ trackId: 'v', worstId: 'g', why: 'limits' }]);
  expect(buried.moves.length).toBeLessThanOrEqual(1);
  const crowd = Object.fromEntries('abcdefgh'.split('').map((id) => [id, { sound: voice.sound }]));
  const many = mixOf({ v: voice, ...crowd })({ mostMoves: 1, mostCutDb: 2, boosts: false });
  expect(many.lacks).toMatchObject([{ trackId: 'v', why: 'crowd' }]);
});

test('a move that is refused is not proposed again, nor one of a track that may not be changed; limits hold', () => {
  const plan = mixOf({
    v: voice,
    g: { sound: [{ lowHz: 150, highHz: 6000, db: -40 }] },
    h: { sound: [{ lowHz: 150, highHz: 6000, db: -40 }] },
  });
  const [first] = plan().moves;
  expect(plan({}, { refused: [first.key] }).moves.some(({ key }) => key === first.key)).toBe(false);
  expect(plan({}, { mayMove: ['h', 'v'] }).moves.every(({ trackId }) => trackId !== 'g')).toBe(true);
  const tight = plan({ mostCutDb: 3, mostMoves: 1, mostLossLu: 0.8 });
  for (const id of ['v', 'g', 'h']) {
    const own = tight.moves.filter(({ trackId }) => trackId === id);
    expect(own.length).toBeLessThanOrEqual(1);
    for (const move of own) {
      expect(move.gainDb).toBeGreaterThanOrEqual(-3);
      expect(move.lossLu).toBeLessThanOrEqual(0.8);
    }
  }
});

test('levels are changed only where that is allowed', () => {
  const parts = { v: voice, g: { sound: [{ lowHz: 150, highHz: 6000, db: -30 }] } };
  expect(mixOf(parts)().moves.some(({ kind }) => kind === 'level')).toBe(false);
  const plan = mixOf(parts)({ levels: true, mostLossLu: 6 });
  expect(plan.moves.some(({ kind, band }) => kind === 'level' && band === null)).toBe(true);
});
