import fc from 'fast-check';
import { emptyEqualizer, emptySong, newBandSettings, newTrack, type Band, type Song, type Track } from '../song';
import { cutRows, SPECTRUM_BANDS, STEPS_PER_SECOND, type FrequencyBand } from '../measure';
import { seededRandom } from '../formats';
import { blockPowers, blocksOf, fieldOf } from './fields';
import { MixMeasure, type ClaimingTrack, type MixFigures } from './mix-measure';
import { bandsIn, sumsIn } from './clearance';
import { clearanceWhere, meetingBlocks } from './make-room';
import { betterEarDb, levelField, overlapsOf } from './overlaps';
import { allRows, audioIdOf, levelsWith } from './testing';
import { fullestStretch } from './fullest-stretch';
import { mixTracks } from './gains';

const RATE = 48000;
const SECONDS = 20;
const LEVELS = allRows({
  // A voice, a low string that is strong where the voice begins, a drum far below both.
  [audioIdOf('v')]: levelsWith(SECONDS, [{ lowHz: 250, highHz: 3000, db: -40 }]),
  [audioIdOf('c')]: levelsWith(SECONDS, [{ lowHz: 120, highHz: 500, db: -38 }]),
  [audioIdOf('d')]: levelsWith(SECONDS, [{ lowHz: 50, highHz: 100, db: -30, from: 5, to: 12 }]),
  [audioIdOf('b')]: levelsWith(SECONDS, [{ lowHz: 60, highHz: 110, db: -36, from: 4, to: 15 }]),
});
const CLAIM = { lowHz: 300, highHz: 2000 };
const track = (letter: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack(
    { audioId: audioIdOf(letter), channels: 1, lengthFrames: SECONDS * RATE },
    { id: letter, name: letter, ink: 0 },
  ),
  claims: [CLAIM],
  ...changes,
});
const songOf = (tracks: Track[]): Song => ({ ...emptySong('Test'), tracks });
const withBand = (letter: string, band: Partial<Band> & Pick<Band, 'type' | 'frequencyHz'>): Partial<Track> => ({
  chain: [
    {
      ...emptyEqualizer(`${letter}-e`),
      bands: [{ ...newBandSettings(band.type, band.frequencyHz), id: 'x', letter: 'A', ...band }],
    },
  ],
});
const WHOLE = { from: 0, to: SECONDS * STEPS_PER_SECOND };

function figures(tracks: Track[], measure = new MixMeasure(), range = WHOLE): MixFigures {
  const all = mixTracks(songOf(tracks)).map((track, i) => ({ ...track, claims: tracks[i].claims }));
  return measure.update(all, LEVELS, range);
}

// docs/clearance.md, the worked example: the voice has −40 dB in each of its bands, the string −38 dB up to 500 Hz.
test('clearance is the ratio of what is heard of a track in its claim to everything else there', () => {
  const { clearances } = figures([track('v', { claims: [{ lowHz: 300, highHz: 420 }] }), track('c')]);
  // Deep inside the range that both fill evenly, spreading changes nothing: −40 over −38 dB.
  expect(clearances.v!.clearanceDb).toBeCloseTo(-2, 0);
  expect(clearances.v!.onTop).toBe(0);
  const above = figures([track('v', { claims: [{ lowHz: 1200, highHz: 2500 }] }), track('c')]).clearances.v!;
  expect(above.clearanceDb).toBeGreaterThan(30);
  expect(above.onTop).toBe(1);
});

test('raising a track by 6 dB raises its clearance by 6 dB', () => {
  fc.assert(
    fc.property(fc.double({ min: -30, max: 10, noNaN: true }), (gainDb) => {
      const at = (gain: number) => figures([track('v', { gainDb: gain }), track('c')]).clearances.v!.clearanceDb;
      const rise = at(gainDb + 6) - at(gainDb);
      expect(Math.abs(rise - 6)).toBeLessThan(0.5);
    }),
    { seed: 6, numRuns: 15 },
  );
});

test('the order of the tracks changes nothing', () => {
  const tracks = [track('v'), track('c'), track('d'), track('b')];
  const expected = figures(tracks);
  fc.assert(
    fc.property(fc.shuffledSubarray(tracks, { minLength: 4, maxLength: 4 }), (shuffled) => {
      expect(figures(shuffled)).toEqual(expected);
    }),
    { seed: 24, numRuns: 10 },
  );
});

test('a mix that is measured edit by edit has the figures of one that is measured anew', () => {
  const measure = new MixMeasure();
  const states = [
    [track('v'), track('c'), track('b')],
    [track('v'), track('c', { gainDb: -5 }), track('b')],
    [track('v'), track('c', { gainDb: -5 }), track('b'), track('d')],
    [track('v', withBand('v', { type: 'high-pass', frequencyHz: 400 })), track('b'), track('d')],
    [track('v', { muted: true }), track('b'), track('d', { soloed: true })],
  ];
  for (const tracks of states) expect(figures(tracks, measure)).toEqual(figures(tracks));
  const loop = { from: 100, to: 260 };
  expect(figures(states[2], measure, loop)).toEqual(figures(states[2], new MixMeasure(), loop));
});

test('a recording that comes in late is heard in every track that plays it', () => {
  const measure = new MixMeasure();
  const tracks = [track('v'), { ...track('v', { gainDb: -6 }), id: 'w' }];
  const all = mixTracks(songOf(tracks)).map((track) => ({ ...track, claims: [CLAIM] }));
  expect(measure.update(all, {}, WHOLE).clearances).toEqual({ v: null, w: null });
  const { clearances, overlaps } = measure.update(all, LEVELS, WHOLE);
  expect(clearances.v!.clearanceDb).toBeCloseTo(6, 1);
  expect(clearances.w!.clearanceDb).toBeCloseTo(-6, 1);
  expect(overlaps[0]).toMatchObject({ quieterId: 'w', louderId: 'v' });
});

test('an overlap is found in the range and in the passage in which both are strong', () => {
  const { overlaps } = figures([track('v'), track('d', { claims: [] }), track('b', { claims: [] })]);
  expect(overlaps).toHaveLength(1);
  const [overlap] = overlaps;
  expect(new Set([overlap.quieterId, overlap.louderId])).toEqual(new Set(['d', 'b']));
  expect(overlap.quieterId).toBe('b');
  expect(overlap.lowHz).toBeLessThan(75);
  expect(overlap.lowHz).toBeGreaterThan(45);
  expect(overlap.highHz).toBeGreaterThan(90);
  expect(overlap.highHz).toBeLessThan(150);
  expect(overlap.passages).toEqual([{ startSeconds: 5, endSeconds: 12 }]);
});

test('a high-pass at 500 Hz removes the overlap at 80 Hz', () => {
  const cut = withBand('b', { type: 'high-pass', frequencyHz: 500, order: 4 });
  const at80 = ({ overlaps }: MixFigures) => overlaps.filter(({ lowHz, highHz }) => lowHz <= 80 && highHz >= 80);
  const drum = track('d', { claims: [] });
  expect(at80(figures([track('v'), drum, track('b', { claims: [] })]))).toHaveLength(1);
  expect(at80(figures([track('v'), drum, track('b', { ...cut, claims: [] })]))).toEqual([]);
});

test('a mix that is louder or softer as a whole keeps its clearances, soft passages and all', () => {
  const soft = levelsWith(SECONDS, [
    { lowHz: 300, highHz: 900, db: -40, from: 0, to: SECONDS / 2 },
    { lowHz: 300, highHz: 900, db: -66, from: SECONDS / 2, to: SECONDS },
  ]);
  const at = (gainDb: number) => {
    const tracks = [track('v', { gainDb, audioId: audioIdOf('s') }), track('c', { gainDb })];
    const all = mixTracks(songOf(tracks)).map((mixed, i) => ({ ...mixed, claims: tracks[i].claims }));
    return new MixMeasure().update(all, { ...LEVELS, ...allRows({ [audioIdOf('s')]: soft }) }, WHOLE).clearances;
  };
  for (const gainDb of [-20, -12, -6, 6])
    for (const [id, clearance] of Object.entries(at(0)))
      expect(at(gainDb)[id]?.clearanceDb).toBeCloseTo(clearance!.clearanceDb, 1);
});

test('what is muted, silent or without a claim has no clearance; a track alone has all that is shown', () => {
  expect(figures([track('v', { muted: true }), track('c')]).clearances.v).toBeNull();
  expect(figures([track('v', { claims: [] })]).clearances.v).toBeNull();
  expect(figures([track('v', { claims: [{ lowHz: 9000, highHz: 12000 }] }), track('d')]).clearances.v).toBeNull();
  expect(figures([track('v')]).clearances.v).toMatchObject({ onTop: 1, clearanceDb: 60 });
  const nothing = track('v', { audioId: audioIdOf('n') });
  expect(figures([nothing])).toEqual({ clearances: { v: null }, overlaps: [] });
  expect(figures([])).toEqual({ clearances: {}, overlaps: [] });
});

test('a single click and the loudest noise give finite figures', () => {
  const extremes = allRows({
    [audioIdOf('k')]: levelsWith(SECONDS, [{ lowHz: 20, highHz: 19000, db: -20, from: 3, to: 3.05 }]),
    [audioIdOf('n')]: new Uint8Array(SECONDS * STEPS_PER_SECOND * SPECTRUM_BANDS).fill(255),
  });
  const tracks = [track('k'), track('n')];
  const all = mixTracks(songOf(tracks)).map((track) => ({ ...track, claims: [CLAIM] }));
  const { clearances, overlaps } = new MixMeasure().update(all, extremes, WHOLE);
  expect(clearances.k!.blocks).toBe(1);
  for (const figure of [clearances.k!.clearanceDb, clearances.n!.clearanceDb, ...overlaps.map(({ weight }) => weight)])
    expect(Number.isFinite(figure)).toBe(true);
});

test('a song of three hours is measured: no list of steps is too long', () => {
  const hours = 3 * 3600;
  const song = songOf([track('v', { lengthFrames: hours * RATE }), track('c', { lengthFrames: hours * RATE })]);
  const levels = levelsWith(hours, [{ lowHz: 250, highHz: 3000, db: -40 }]);
  const byAudio = allRows({ [audioIdOf('v')]: levels, [audioIdOf('c')]: levels });
  expect(fullestStretch(song, byAudio)).not.toBeNull();
  const all = mixTracks(song).map((each) => ({ ...each, claims: [CLAIM] }));
  const range = { from: 0, to: hours * STEPS_PER_SECOND };
  expect(new MixMeasure().update(all, byAudio, range).overlaps.length).toBeGreaterThan(0);
});

test('levels in longer rows give the clearance of the stored ones; finer rows that come in later take their place', () => {
  const measure = new MixMeasure();
  const all = mixTracks(songOf([track('v'), track('d')])).map((each) => ({
    ...each,
    claims: [{ lowHz: 40, highHz: 2000 }],
  }));
  const per = 4;
  const coarse = Object.fromEntries(
    Object.entries(LEVELS).map(([audioId, [{ bytes }]]) => [
      audioId,
      [{ bytes: cutRows(bytes, WHOLE, per), firstStep: 0, endStep: Infinity, stepsPerRow: per }],
    ]),
  );
  const whole = figures([track('v', { claims: all[0].claims }), track('d', { claims: all[1].claims })]).clearances;
  const rough = measure.update(all, coarse, WHOLE).clearances;
  for (const id of ['v', 'd']) expect(rough[id]!.clearanceDb).toBeCloseTo(whole[id]!.clearanceDb, 0);
  const both = Object.fromEntries(Object.keys(LEVELS).map((id) => [id, [...coarse[id], ...LEVELS[id]]]));
  expect(measure.update(all, both, WHOLE).clearances).toEqual(whole);
});

test('of many tracks the overlaps that are listed are those that a close look at every pair finds', () => {
  const random = seededRandom(3);
  const letters = Array.from({ length: 30 }, (_, i) => String.fromCharCode(97 + (i % 26)) + (i < 26 ? '' : 'x'));
  const levels = allRows(
    Object.fromEntries(
      letters.map((letter) => {
        const lowHz = 60 * 2 ** (6 * random());
        const parts = [
          { lowHz, highHz: lowHz * 2 ** (0.5 + 1.5 * random()), db: -50 + 20 * random(), from: 0, to: 80 },
        ];
        return [audioIdOf(letter), levelsWith(80, parts)];
      }),
    ),
  );
  const tracks = letters.map((letter) => ({ ...track('v'), id: letter, audioId: audioIdOf(letter) }));
  const all = mixTracks(songOf(tracks)).map((each) => ({ ...each, claims: [] }));
  const range = { from: 0, to: 80 * STEPS_PER_SECOND };
  const { overlaps } = new MixMeasure().update(all, levels, range);
  const blocks = blocksOf(range);
  const fields = all.map(({ id, audioId, channels, gains }) => ({
    id,
    field: levelField(fieldOf(blockPowers(levels[audioId][0], channels, blocks), gains).excitation),
    claims: [],
    usual: null,
  }));
  const heard = new Map(
    all.map(({ id, audioId, channels, gains }) => [
      id,
      fieldOf(blockPowers(levels[audioId][0], channels, blocks), gains).excitation,
    ]),
  );
  // Where the one that loses stands clear while both play, nothing needs to give way.
  const isFinding = ({ quieterId, louderId, ...range }: { quieterId: string; louderId: string } & FrequencyBand) => {
    const [own, other] = [quieterId, louderId].map((id) => sumsIn(heard.get(id)!, bandsIn([range]), blocks.count));
    const overDb = clearanceWhere(meetingBlocks(own, other), own, other);
    return overDb !== null && overDb < 3;
  };
  const exhaustive = fields
    .flatMap((first, i) =>
      fields.slice(i + 1).flatMap((second) => overlapsOf(first, second, { first: 0, second: 0 }, isFinding)),
    )
    .sort((a, b) => b.lost - a.lost)
    .slice(0, overlaps.length);
  const named = (list: readonly { quieterId: string; louderId: string; lowHz: number }[]) =>
    list.map(({ quieterId, louderId, lowHz }) => `${quieterId}/${louderId} ${lowHz.toFixed(0)}`).sort();
  expect(overlaps).toHaveLength(40);
  expect(named(overlaps)).toEqual(named(exhaustive));
});

test('a group stands above everything else as the sum of its tracks does, and what is folded is one in overlaps', () => {
  const tracks = [track('v'), track('c'), track('d'), track('b')].map((strip) => ({ ...strip, claims: [] as never[] }));
  const all = mixTracks(songOf(tracks)).map((strip) => ({ ...strip, claims: [] }));
  const group = (id: string, trackIds: string[], isOne = false) => ({ id, claims: [CLAIM], trackIds, isOne });
  const measure = new MixMeasure();
  const both = measure.update(all, LEVELS, WHOLE, [group('x', ['c', 'b'])]);
  // The string alone is all that is in the group's claim: the group stands to the voice as it does.
  const alone = figures([track('v'), track('c', { claims: [CLAIM] }), track('d'), track('b')]).clearances.c!;
  expect(both.clearances.x!.clearanceDb).toBeCloseTo(alone.clearanceDb, 2);
  const pairs = ({ overlaps }: MixFigures) =>
    new Set(overlaps.map(({ quieterId, louderId }) => [quieterId, louderId].sort().join()));
  expect(pairs(both)).toEqual(new Set(['c,v', 'b,d', 'b,c', 'c,d']));
  const folded = measure.update(all, LEVELS, WHOLE, [group('x', ['c', 'b'], true)]);
  // The drum stands clear of the two together.
  expect(pairs(folded)).toEqual(new Set(['v,x']));
  // Of one within another the outer one counts; a group that is gone is forgotten.
  const nested = [group('x', ['c', 'b'], true), group('y', ['b', 'c', 'd'], true)];
  expect(pairs(measure.update(all, LEVELS, WHOLE, nested))).toEqual(new Set(['v,y']));
  expect(measure.update(all, LEVELS, WHOLE)).toEqual(figures(tracks));
});

test('tracks of one source are not in each other’s way, and neither stands above the other', () => {
  const tracks = [track('v'), track('c')];
  const kin = (id: string) => (id === 'v' ? ['c'] : ['v']);
  const all = mixTracks(songOf(tracks)).map((strip) => ({ ...strip, claims: [CLAIM], kin: kin(strip.id) }));
  const { clearances, overlaps } = new MixMeasure().update(all, LEVELS, WHOLE);
  expect(overlaps).toEqual([]);
  expect(clearances.v!.clearanceDb).toBeGreaterThan(50);
});

/** Pairs that were worked out by hand: what counts is what is lost of what is one's own. */
const PLANTED = allRows({
  [audioIdOf('a')]: levelsWith(SECONDS, [{ lowHz: 400, highHz: 1600, db: -42 }]),
  // The same range at the same time, 4 dB louder; in turns; far below; in another range.
  [audioIdOf('b')]: levelsWith(SECONDS, [{ lowHz: 400, highHz: 1600, db: -38 }]),
  [audioIdOf('c')]: levelsWith(SECONDS, [{ lowHz: 400, highHz: 1600, db: -38, from: 10, to: 20 }]),
  [audioIdOf('d')]: levelsWith(SECONDS, [{ lowHz: 400, highHz: 1600, db: -70 }]),
  [audioIdOf('e')]: levelsWith(SECONDS, [{ lowHz: 5000, highHz: 9000, db: -38 }]),
  [audioIdOf('f')]: levelsWith(SECONDS, [{ lowHz: 400, highHz: 1600, db: -42, from: 0, to: 10 }]),
});
function planted(letters: string, changes: Record<string, Partial<ClaimingTrack & { muted: boolean }>> = {}) {
  const tracks = [...letters].map((letter) => track(letter, { claims: [], muted: changes[letter]?.muted ?? false }));
  const all = mixTracks(songOf(tracks)).map((each) => ({ ...each, claims: [], ...changes[each.id] }));
  return new MixMeasure().update(all, PLANTED, WHOLE).overlaps;
}

test('the same range at once is an overlap; in turns, far below or elsewhere it is none', () => {
  expect(planted('ab')).toMatchObject([{ quieterId: 'a', louderId: 'b' }]);
  expect(planted('fc')).toEqual([]);
  expect(planted('ad')).toMatchObject([{ quieterId: 'd', louderId: 'a' }]);
  expect(planted('ae')).toEqual([]);
  // What is lost all the time counts for more than what is lost half of the time; a muted track is in nobody's way.
  const between = (letters: string) =>
    planted('abc').find(({ quieterId, louderId }) => letters.includes(quieterId) && letters.includes(louderId))!;
  expect(between('ab').weight).toBeGreaterThan(1.5 * between('ac').weight);
  expect(planted('ab', { b: { muted: true } })).toEqual([]);
});

test('what is lost outside of one’s own claim is no finding, nor what another claims', () => {
  expect(planted('ab', { a: { claims: [{ lowHz: 500, highHz: 1200 }] } })).toMatchObject([{ quieterId: 'a' }]);
  expect(
    planted('ab', { a: { claims: [{ lowHz: 3000, highHz: 6000 }] }, b: { claims: [{ lowHz: 400, highHz: 1600 }] } }),
  ).toEqual([]);
  const outside = planted('ab', { b: { claims: [{ lowHz: 400, highHz: 800 }] } });
  expect(outside).toHaveLength(1);
  expect(outside[0].lowHz).toBeGreaterThan(750);
  // What the part is for counts more than what lies beside it.
  const usual = planted('ab', { a: { usual: { lowHz: 900, highHz: 1700 } } });
  expect(usual[0].lowHz).toBeGreaterThan(800);
});

// Shares of 0.9 and 0.1 against 0.1 and 0.9: in its better ear one stands 10·log10(9) = 9.5 dB better than in both together.
test('position counts: in the better ear less is lost, and how much is said', () => {
  expect(betterEarDb([0.5, 0.5], [0.5, 0.5])).toBe(0);
  expect(betterEarDb([0.9, 0.1], [0.1, 0.9])).toBeCloseTo(9.54, 1);
  expect(betterEarDb([1, 0], [0, 1])).toBe(10);
  const apart = planted('ab', { a: { ears: [0.75, 0.25] }, b: { ears: [0.25, 0.75] } });
  const together = planted('ab');
  expect(apart[0].betterEarDb).toBeCloseTo(10 * Math.log10(3), 2);
  expect(apart[0].lostShare).toBeLessThan(together[0].lostShare);
  // Far apart nothing needs to give way.
  expect(planted('ab', { a: { ears: [0.95, 0.05] }, b: { ears: [0.05, 0.95] } })).toEqual([]);
});
