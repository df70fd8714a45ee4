import { emptySong, newTrack, type Song } from '../song';
import { STEPS_PER_SECOND } from '../measure';
import { proposeClaim } from './claims';
import { fullestStretch } from './fullest-stretch';
import { roomClearanceDb, roomMoves, roomOwner, roomStrength, type RoomParty } from './make-room';
import { MixMeasure } from './mix-measure';
import type { Overlap } from './overlaps';
import { thinRanges } from './space';
import { allRows, audioIdOf, levelsWith } from './testing';
import { mixTracks } from './gains';

const RATE = 48000;
const SECONDS = 20;
const LEVELS = allRows({
  [audioIdOf('v')]: levelsWith(SECONDS, [{ lowHz: 250, highHz: 3000, db: -42, from: 4, to: 20 }]),
  [audioIdOf('c')]: levelsWith(SECONDS, [{ lowHz: 120, highHz: 600, db: -38 }]),
  [audioIdOf('w')]: levelsWith(SECONDS, [
    { lowHz: 40, highHz: 900, db: -40, from: 2, to: 12 },
    { lowHz: 901, highHz: 1800, db: -60, from: 2, to: 12 },
    { lowHz: 1801, highHz: 12000, db: -45, from: 2, to: 12 },
  ]),
});
const song: Song = {
  ...emptySong('Test'),
  tracks: ['v', 'c', 'w'].map((letter) =>
    newTrack(
      { audioId: audioIdOf(letter), channels: 1, lengthFrames: SECONDS * RATE },
      { id: letter, name: letter, ink: 0 },
    ),
  ),
};
const measureOf = (ids: readonly string[]) => {
  const measure = new MixMeasure();
  const tracks = mixTracks(song).filter(({ id }) => ids.includes(id));
  measure.update(
    tracks.map((track) => ({ ...track, claims: [] })),
    LEVELS,
    { from: 0, to: SECONDS * STEPS_PER_SECOND },
  );
  return measure;
};
const overlap: Overlap = {
  quieterId: 'v',
  louderId: 'c',
  lowHz: 250,
  highHz: 600,
  betterEarDb: 0,
  lostShare: 0.3,
  weight: 0.3,
  passages: [],
};

function partiesOf(voiceClaims: RoomParty['claims'], celloClaims: RoomParty['claims'] = []): [RoomParty, RoomParty] {
  const measure = measureOf(['v', 'c']);
  const party = (id: string, claims: RoomParty['claims']) => ({ id, claims, field: measure.fields(id)!.own });
  return [party('v', voiceClaims), party('c', celloClaims)];
}

test('the one whose claim it is stands clear by just the target, by the smallest move', () => {
  const parties = partiesOf([{ lowHz: 250, highHz: 2000 }]);
  const { blocks } = measureOf(['v', 'c']).fields('v')!;
  const choice = { ownerId: roomOwner(overlap, parties), withBoost: false };
  const target = { targetDb: 3, ...choice };
  const strength = roomStrength(overlap, parties, blocks, RATE, target);
  const moves = roomMoves(overlap, parties, strength, choice);
  expect([moves.ownerId, moves.yielderId, moves.boost]).toEqual(['v', 'c', null]);
  expect(moves.cut).toMatchObject({ type: 'bell' });
  expect(moves.cut.gainDb).toBeLessThan(-5);
  const reached = (share: number) =>
    roomClearanceDb(overlap, roomMoves(overlap, parties, share, choice), parties, blocks, RATE)!;
  expect(reached(0)).toBeLessThan(0);
  expect(reached(strength)).toBeGreaterThanOrEqual(3);
  expect(reached(strength - 0.05)).toBeLessThan(3);
  // With a boost less is cut.
  expect(roomStrength(overlap, parties, blocks, RATE, { ...target, withBoost: true })).toBeLessThan(strength);
});

test('the claim decides whose range it is; without claims it is that of the one that loses', () => {
  expect(roomOwner(overlap, partiesOf([], [{ lowHz: 100, highHz: 700 }]))).toBe('c');
  expect(roomOwner(overlap, partiesOf([]))).toBe('v');
});

test('a pass filter does where the one that gives way has next to nothing below', () => {
  const edge = { ...overlap, lowHz: 240, highHz: 270 };
  const moves = roomMoves(edge, partiesOf([]), 1, { ownerId: 'c', withBoost: false });
  expect(moves).toMatchObject({ yielderId: 'v', cut: { type: 'high-pass' } });
  expect(moves.cut.frequencyHz).toBeCloseTo(270, 6);
});

test('there is space where the rest is thin while the track plays', () => {
  const measure = measureOf(['v', 'w']);
  const { own, all, blocks } = measure.fields('v')!;
  const ranges = thinRanges(own, all, blocks);
  expect(ranges).toHaveLength(1);
  expect(ranges[0].lowHz).toBeGreaterThan(850);
  expect(ranges[0].highHz).toBeLessThan(2000);
  const alone = measureOf(['v']).fields('v')!;
  expect(thinRanges(alone.own, alone.all, alone.blocks)).toEqual([]);
});

test('a claim is proposed where the track lives and is not covered; none for one that does not play', () => {
  const { own, all, blocks } = measureOf(['v', 'c']).fields('v')!;
  const claim = proposeClaim('voice', own, all, blocks)!;
  expect(claim.lowHz).toBeGreaterThanOrEqual(400);
  expect(claim.highHz).toBeLessThanOrEqual(3600);
  expect(claim.highHz / claim.lowHz).toBeGreaterThan(1.4);
  const silent = { powers: new Float32Array(own.powers.length), excitation: new Float32Array(own.powers.length) };
  expect(proposeClaim('voice', silent, all, blocks)).toBeNull();
});

test('the fullest stretch is where most plays at once; it begins with a part that begins near', () => {
  const loop = { startSeconds: 0, endSeconds: 6, enabled: false };
  const found = fullestStretch({ ...song, loop }, LEVELS)!;
  expect(found.startSeconds).toBeGreaterThanOrEqual(4);
  expect(found.endSeconds).toBeLessThanOrEqual(12);
  expect(found).toMatchObject({ enabled: true });
  const parts = [
    { name: 'Shore', startSeconds: 0 },
    { name: 'Rowing', startSeconds: 5 },
  ];
  expect(fullestStretch({ ...song, loop, parts }, LEVELS)).toEqual({ startSeconds: 5, endSeconds: 11, enabled: true });
  expect(fullestStretch(song, {})).toBeNull();
});

test('raising a recording by 6 dB moves no claim', () => {
  const { own, all, blocks } = measureOf(['v', 'c', 'w']).fields('v')!;
  for (const part of ['voice', 'something else']) {
    const claim = proposeClaim(part, own, all, blocks);
    const louder = {
      powers: own.powers.map((power) => 4 * power),
      excitation: own.excitation.map((power) => 4 * power),
    };
    const mix = all.map((power, i) => power + 3 * own.excitation[i]);
    expect(proposeClaim(part, louder, mix, blocks)).toEqual(claim);
  }
});
