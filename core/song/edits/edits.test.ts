import fc from 'fast-check';
import { OrvidError } from '../../errors';
import { BAND_DEFAULTS, freeLetter, newBandSettings, withinLimits } from '../band';
import { checkEdit, editSchema, type Edit, type SingleEdit } from '../edit-schema';
import { applyEdit, batch, checkRouting, invertEdit, joinEdits } from '.';
import {
  firstEqualizer,
  emptyEqualizer,
  emptySong,
  MASTER_ID,
  MOST_BANDS,
  MOST_BUSES,
  MOST_DRAFTS,
  MOST_PASSAGES,
  MOST_TRACKS,
  newBus,
  newProcessor,
  newTrack,
  settingsOf,
} from '../model';
import { FIGURES, MOST_PROCESSORS, OWN_KEY, PROCESSOR_KINDS, type ProcessorKind } from '../processor';
import { songSchema, type Band, type Bus, type FigureRef, type GivesWay, type Passage, type Song } from '../schema';

const audioId = 'ab'.repeat(32);
const track = (id: string) => newTrack({ audioId, channels: 1, lengthFrames: 1000 }, { id, name: id, ink: 1 });
const bus = (id: string, outputId = MASTER_ID): Bus => ({ ...newBus({ id, name: id, ink: 0 }), outputId });
const band = (id: string, changes: Partial<Band> = {}): Band => ({
  ...newBandSettings('bell', 500),
  id,
  letter: 'A',
  ...changes,
});

const passage = (id: string, name = id): Passage => ({
  id,
  name,
  startSeconds: 0,
  endSeconds: 2,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  enabled: true,
  changes: [],
});

const GIVES_WAY: GivesWay = {
  amountDb: -6,
  thresholdDb: -30,
  attackMs: 10,
  holdMs: 0,
  releaseMs: 150,
  key: { stripId: OWN_KEY, lowHz: 100, highHz: 300 },
};

function base(): Song {
  const [a, b] = [track('a'), track('b')];
  return {
    ...emptySong('Base'),
    tracks: [
      {
        ...a,
        chain: [
          { ...emptyEqualizer('a-equalizer'), bands: [band('p'), band('q', { letter: 'B', givesWay: GIVES_WAY })] },
          newProcessor('compressor', 'squeeze'),
          newProcessor('ducker', 'duck'),
        ],
      },
      b,
    ],
    buses: [bus('x'), bus('y', 'x')],
    passages: [passage('w', 'intro')],
  };
}

/** Any edit, most of them about something that is there. */
const stripId = fc.constantFrom('a', 'b', 'x', 'y', MASTER_ID, 'gone');
const bandPlace = fc.constantFrom(
  { stripId: 'a', equalizerId: 'a-equalizer', bandId: 'p' },
  { stripId: 'a', equalizerId: 'a-equalizer', bandId: 'q' },
  { stripId: 'a', equalizerId: 'a-equalizer', bandId: 'new' },
  { stripId: 'b', equalizerId: 'b-equalizer', bandId: 'new' },
  { stripId: 'b', equalizerId: 'none', bandId: 'new' },
);
const hz = fc.double({ min: 10, max: 30000, noNaN: true });
const db = fc.double({ min: -36, max: 24, noNaN: true });
const limits = fc.constantFrom(null, { minHz: 100, maxHz: 200 }, { minHz: 400, maxHz: 400 });
const keyEnd = fc.constantFrom(null, 50, 200, 900);
const someOfKey = fc.record(
  { stripId: fc.constantFrom('b', 'x', OWN_KEY), lowHz: keyEnd, highHz: keyEnd },
  { requiredKeys: [] },
);
const givesWay = fc.oneof(
  fc.constantFrom(null, GIVES_WAY),
  fc.record(
    { amountDb: fc.constantFrom(-9, 3), attackMs: fc.constantFrom(1, 50), key: someOfKey },
    { requiredKeys: [] },
  ),
);
const anySingle: fc.Arbitrary<SingleEdit> = fc.oneof(
  fc.record({
    kind: fc.constant('song.set' as const),
    changes: fc.record({ title: fc.constantFrom('One', 'Two'), loop: fc.constant(null) }, { requiredKeys: [] }),
  }),
  fc.record({
    kind: fc.constant('track.add' as const),
    track: fc.constantFrom(track('new'), track('a')),
    index: fc.nat(4),
  }),
  fc.record({ kind: fc.constant('track.remove' as const), trackId: stripId }),
  fc.record({ kind: fc.constant('track.move' as const), trackId: stripId, index: fc.nat(4) }),
  fc.record({ kind: fc.constant('bus.add' as const), bus: fc.constantFrom(bus('z'), bus('x')), index: fc.nat(4) }),
  fc.record({ kind: fc.constant('bus.remove' as const), busId: stripId }),
  fc.record({
    kind: fc.constant('strip.set' as const),
    stripId,
    changes: fc.record(
      { gainDb: db, muted: fc.boolean(), outputId: fc.constantFrom(MASTER_ID, 'x', 'y', 'gone') },
      { requiredKeys: [] },
    ),
  }),
  bandPlace.map(({ bandId: _, ...place }) => ({
    kind: 'equalizer.set' as const,
    ...place,
    changes: { enabled: false },
  })),
  fc
    .tuple(bandPlace, fc.nat(3))
    .map(([{ bandId, ...place }, index]) => ({ kind: 'band.add' as const, ...place, band: band(bandId), index })),
  bandPlace.map((place) => ({ kind: 'band.remove' as const, ...place })),
  fc
    .tuple(
      bandPlace,
      fc.record(
        { frequencyHz: hz, gainDb: db, q: fc.constantFrom(1, 4), limits, enabled: fc.boolean(), givesWay },
        { requiredKeys: [] },
      ),
    )
    .map(([place, changes]) => ({ kind: 'band.set' as const, ...place, changes })),
  fc
    .tuple(stripId, fc.constantFrom<ProcessorKind>('gate', 'reverb'), fc.constantFrom('new', 'squeeze'), fc.nat(4))
    .map(([stripId, kind, id, index]) => ({
      kind: 'processor.add' as const,
      stripId,
      processor: newProcessor(kind, id),
      index,
    })),
  fc
    .tuple(stripId, fc.constantFrom('squeeze', 'duck', 'new', 'a-equalizer'), fc.nat(4), fc.boolean())
    .map(([stripId, processorId, index, moves]) =>
      moves
        ? { kind: 'processor.move' as const, stripId, processorId, index }
        : { kind: 'processor.remove' as const, stripId, processorId },
    ),
  fc
    .tuple(fc.constantFrom('squeeze', 'duck', 'new'), fc.constantFrom('a', 'b', 'x', 'gone', MASTER_ID, OWN_KEY), db)
    .map(([processorId, from, thresholdDb]) => ({
      kind: 'processor.set' as const,
      processorKind: 'ducker' as const,
      stripId: 'a',
      processorId,
      changes: { thresholdDb: -Math.abs(thresholdDb), key: { stripId: from, lowHz: null, highHz: 200 } },
    })),
  fc.tuple(fc.constantFrom('squeeze', 'duck'), someOfKey).map(([processorId, key]) =>
    processorId === 'duck'
      ? {
          kind: 'processor.set' as const,
          processorKind: 'ducker' as const,
          stripId: 'a',
          processorId,
          changes: { key },
        }
      : {
          kind: 'processor.set' as const,
          processorKind: 'compressor' as const,
          stripId: 'a',
          processorId,
          changes: { key },
        },
  ),
  fc.record({ kind: fc.constant('passage.remove' as const), passageId: fc.constantFrom('w', 'gone') }),
  fc
    .tuple(
      fc.constantFrom('w', 'gone'),
      fc.double({ min: 0, max: 3, noNaN: true }),
      fc.double({ min: 0, max: 3, noNaN: true }),
    )
    .map(([passageId, endSeconds, fadeInSeconds]) => ({
      kind: 'passage.set' as const,
      passageId,
      changes: { endSeconds, fadeInSeconds },
    })),
  fc
    .tuple(
      fc.constantFrom('w', 'gone'),
      fc.constantFrom('p', 'q', 'a'),
      fc.option(db),
      fc.array(fc.nat(5), { maxLength: 3 }),
    )
    .map(([passageId, partId, value, times]) => ({
      kind: 'passage.figure' as const,
      passageId,
      figure: { stripId: 'a', of: 'band', partId, field: 'gainDb' } satisfies FigureRef as FigureRef,
      changes: { to: value === null ? null : { value, points: times.map((atSeconds) => ({ atSeconds, value })) } },
    })),
);
const anyEdit: fc.Arbitrary<Edit> = fc.oneof(
  anySingle,
  fc.array(anySingle, { minLength: 1, maxLength: 4 }).map((edits) => ({ kind: 'batch' as const, edits })),
);

test('every edit that can be done can be undone, and leaves a valid song; the given song is never touched (seed 21)', () => {
  let applied = 0;
  fc.assert(
    fc.property(fc.array(anyEdit, { minLength: 1, maxLength: 8 }), (edits) => {
      let song = base();
      for (const edit of edits) {
        const before = JSON.stringify(song);
        let next: Song;
        try {
          next = applyEdit(song, edit);
        } catch (thrown) {
          expect(thrown).toMatchObject({ code: expect.stringMatching(/not-found|invalid-input/) });
          continue;
        }
        applied++;
        expect(JSON.stringify(song)).toBe(before);
        expect(editSchema.safeParse(edit).success).toBe(true);
        expect(songSchema.safeParse(next).success).toBe(true);
        const inverse = invertEdit(song, edit);
        expect(applyEdit(next, inverse)).toEqual(song);
        song = next;
      }
    }),
    { seed: 21, numRuns: 400 },
  );
  expect(applied).toBeGreaterThan(400);
});

/** A song whose lists are full, or nearly so. */
function crowded(): Song {
  const many = <T>(count: number, make: (id: string) => T) => Array.from({ length: count }, (_, i) => make(`n${i}`));
  const [first, ...others] = many(MOST_TRACKS - 1, (id) => track(`track-${id}`));
  return {
    ...base(),
    tracks: [
      {
        ...first,
        id: 'a',
        chain: [{ ...emptyEqualizer('a-equalizer'), bands: many(MOST_BANDS - 1, (id) => band(id)) }],
      },
      ...others,
    ],
    buses: many(MOST_BUSES - 1, (id) => bus(`bus-${id}`)),
    passages: many(MOST_PASSAGES - 1, (id) => passage(id)),
    drafts: many(MOST_DRAFTS - 1, (id) => ({ id, name: id, settings: settingsOf(base()) })),
  };
}

test('whatever is added to a song whose lists are nearly full, it stays valid or the edit is refused in words (seed 33)', () => {
  const place = { stripId: 'a', equalizerId: 'a-equalizer' };
  const twice = { ...base(), tracks: [track('a'), track('a')] };
  const anyAddition = fc.tuple(fc.nat(6), fc.constantFrom('new', 'newer', 'n0')).map(([which, id]): Edit => {
    const additions: Edit[] = [
      { kind: 'track.add', track: track(id), index: 200 },
      { kind: 'bus.add', bus: bus(id), index: 0 },
      { kind: 'band.add', ...place, band: band(id), index: 3 },
      { kind: 'draft.keep', draftId: id, name: id },
      { kind: 'passage.add', passage: passage(id), index: 0 },
      { kind: 'settings.set', settings: settingsOf(twice) },
      { kind: 'chain.set', stripId: 'a', chain: [emptyEqualizer(id), emptyEqualizer(id)] },
    ];
    return additions[which];
  });
  let refusals = 0;
  fc.assert(
    fc.property(fc.array(anyAddition, { minLength: 2, maxLength: 6 }), (edits) => {
      let song = crowded();
      for (const edit of edits) {
        try {
          song = applyEdit(song, edit);
          expect(songSchema.safeParse(song).error).toBeUndefined();
        } catch (thrown) {
          if (!(thrown instanceof OrvidError)) throw thrown;
          expect(thrown.message).toMatch(/at most \d+|already has|is taken|have the id/);
          refusals++;
        }
      }
    }),
    { seed: 33, numRuns: 16 },
  );
  expect(refusals).toBeGreaterThan(16);
});

test('a change of a kind that is not known is refused, and not passed over', () => {
  const newer = { kind: 'band.fold', stripId: 'a' } as unknown as Edit;
  expect(() => applyEdit(base(), newer)).toThrow('was made by a newer Orvid');
});

test('a batch is applied whole or not at all', () => {
  const song = base();
  const edit: Edit = {
    kind: 'batch',
    edits: [
      { kind: 'track.remove', trackId: 'a' },
      { kind: 'track.remove', trackId: 'gone' },
    ],
  };
  expect(() => applyEdit(song, edit)).toThrow('This track is no longer in the song');
  expect(song.tracks).toHaveLength(2);
});

test.each<[string, SingleEdit]>([
  ['which is not a bus', { kind: 'strip.set', stripId: 'a', changes: { outputId: 'nowhere' } }],
  ['would feed itself', { kind: 'strip.set', stripId: 'x', changes: { outputId: 'y' } }],
  [
    'would feed itself',
    {
      kind: 'strip.set',
      stripId: 'x',
      changes: { sends: [{ busId: 'x', gainDb: 0, tap: 'after-fader', enabled: true }] },
    },
  ],
  ['is not a bus of this song', { kind: 'bus.remove', busId: 'x' }],
  ['has no field “pan”', { kind: 'strip.set', stripId: MASTER_ID, changes: { pan: 0 } }],
  ['is taken', { kind: 'track.add', track: track('x'), index: 0 }],
])('an edit that would break the song is refused: %s', (reason, edit) => {
  expect(() => applyEdit(base(), edit)).toThrow(reason);
  expect(() => checkRouting(base())).not.toThrow();
});

test('limits hold a band wherever it is moved', () => {
  const place = { stripId: 'a', equalizerId: 'a-equalizer', bandId: 'p' };
  const limited = applyEdit(base(), { kind: 'band.set', ...place, changes: { limits: { minHz: 100, maxHz: 200 } } });
  expect(firstEqualizer(limited.tracks[0])!.bands[0].frequencyHz).toBe(200);
  const moved = applyEdit(limited, { kind: 'band.set', ...place, changes: { frequencyHz: 50 } });
  expect(firstEqualizer(moved.tracks[0])!.bands[0].frequencyHz).toBe(100);
  expect(withinLimits({ limits: null }, 5)).toBe(10);
});

test('letters: the first that is free, two of them after Z', () => {
  expect(freeLetter([])).toBe('A');
  expect(freeLetter(['A', 'C'])).toBe('B');
  const alphabet = Array.from({ length: 26 }, (_, i) => String.fromCharCode(65 + i));
  expect(freeLetter(alphabet)).toBe('AA');
});

test('batch flattens, and is nothing for nothing', () => {
  const edit: Edit = { kind: 'track.remove', trackId: 'a' };
  expect(batch([])).toBeNull();
  expect(batch([edit])).toBe(edit);
  expect(batch([edit, { kind: 'batch', edits: [edit, edit] }])).toEqual({ kind: 'batch', edits: [edit, edit, edit] });
});

test('the defaults are legal', () => {
  expect(songSchema.safeParse(base()).error).toBeUndefined();
  expect(BAND_DEFAULTS.q).toBeCloseTo(Math.SQRT1_2, 3);
});

describe('drafts', () => {
  const start = applyEdit(emptySong('Drafts'), {
    kind: 'track.add',
    track: newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 }, { id: 't', name: 'T', ink: 0 }),
    index: 0,
  });
  const keep: Edit = { kind: 'draft.keep', draftId: 'd', name: 'First' };
  const louder: Edit = { kind: 'strip.set', stripId: 't', changes: { gainDb: 3 } };
  const there = (song: Song, edit: Edit) =>
    expect(applyEdit(applyEdit(song, edit), invertEdit(song, edit))).toEqual(song);

  test('a draft keeps the settings as they are, and gives them back; the loop and the drafts themselves stay', () => {
    const kept = applyEdit(start, keep);
    const loop = { startSeconds: 1, endSeconds: 2, enabled: true };
    const changed = applyEdit(applyEdit(kept, louder), { kind: 'song.set', changes: { loop } });
    const taken = applyEdit(changed, { kind: 'draft.take', draftId: 'd' });
    expect(taken.tracks).toEqual(start.tracks);
    expect(taken.loop).toEqual(loop);
    expect(taken.drafts).toHaveLength(1);
    expect(songSchema.parse(taken)).toEqual(taken);
  });

  test('each of their edits is undone by its inverse', () => {
    const kept = applyEdit(start, keep);
    const changed = applyEdit(kept, louder);
    there(start, keep);
    there(changed, { kind: 'draft.take', draftId: 'd' });
    there(kept, { kind: 'draft.remove', draftId: 'd' });
    there(kept, { kind: 'draft.rename', draftId: 'd', name: 'Second' });
    there(changed, { kind: 'chain.set', stripId: 't', chain: [] });
    there(changed, { kind: 'settings.set', settings: kept.drafts[0].settings });
  });

  test('one that is gone, a name twice, and one too many are refused', () => {
    const kept = applyEdit(start, keep);
    expect(() => applyEdit(start, { kind: 'draft.take', draftId: 'd' })).toThrow('This draft is no longer in the song');
    expect(() => applyEdit(kept, keep)).toThrow('already has a draft');
    const full = Array.from({ length: 39 }, (_, i) => i).reduce(
      (song, i) => applyEdit(song, { kind: 'draft.keep', draftId: `d${i}`, name: 'x' }),
      kept,
    );
    expect(() => applyEdit(full, { kind: 'draft.keep', draftId: 'more', name: 'x' })).toThrow('at most 40 drafts');
  });
});

test('joined edits do what the two do one after the other, and stay small (seed 41)', () => {
  const after = (song: Song, edit: Edit) => {
    try {
      return applyEdit(song, edit);
    } catch {
      return null;
    }
  };
  fc.assert(
    fc.property(anyEdit, anyEdit, (first, second) => {
      const halfway = after(base(), first);
      const both = halfway && after(halfway, second);
      // Where one of the two is refused there is nothing to join.
      if (both) expect(after(base(), joinEdits(first, second))).toEqual(both);
    }),
    { seed: 41, numRuns: 2000 },
  );
  const gain = (gainDb: number): Edit => ({ kind: 'strip.set', stripId: 'a', changes: { gainDb } });
  const many = Array.from({ length: 600 }, (_, i) => gain(i / 100)).reduce(joinEdits);
  expect(many).toEqual(gain(5.99));
});

test('an edit that no song could take is named by its field and its limit', () => {
  expect(() => checkEdit({ kind: 'song.set', changes: { title: ' ' } })).toThrow(
    'title: a name needs at least one character',
  );
  const far: SingleEdit = { kind: 'strip.set', stripId: 'a', changes: { gainDb: 99 } };
  expect(() => checkEdit({ kind: 'batch', edits: [far] })).toThrow('gainDb');
  expect(() => checkEdit({ ...far, changes: { gainDb: 9 } })).not.toThrow();
});

describe('chains', () => {
  const duck = (stripId: string): Edit => ({
    kind: 'processor.set',
    processorKind: 'ducker',
    stripId: 'a',
    processorId: 'duck',
    changes: { key: { stripId, lowHz: null, highHz: null } },
  });

  test('a processor listens to a track or a group, never in a circle, to the master, or to what is gone', () => {
    expect(applyEdit(base(), duck('b')).tracks[0].chain[2]).toMatchObject({ key: { stripId: 'b' } });
    const inGroup = applyEdit(base(), { kind: 'strip.set', stripId: 'a', changes: { outputId: 'y' } });
    expect(() => applyEdit(inGroup, duck('x'))).toThrow('listen to what it feeds');
    expect(() => applyEdit(base(), duck('a'))).toThrow('“a” would feed itself');
    expect(() => applyEdit(base(), duck(MASTER_ID))).toThrow('would listen to the master');
    expect(() => applyEdit(base(), duck('gone'))).toThrow('a strip that is not in the song');
    // What is listened to is not taken away unsaid.
    expect(() => applyEdit(applyEdit(base(), duck('b')), { kind: 'track.remove', trackId: 'b' })).toThrow(
      'not in the song',
    );
  });

  test('processors are moved within their chain, and are no more than it holds; another kind is refused', () => {
    const moved = applyEdit(base(), { kind: 'processor.move', stripId: 'a', processorId: 'duck', index: 0 });
    expect(moved.tracks[0].chain.map(({ id }) => id)).toEqual(['duck', 'a-equalizer', 'squeeze']);
    const full = Array.from({ length: MOST_PROCESSORS - 3 }, (_, i) => i).reduce(
      (song, i) =>
        applyEdit(song, { kind: 'processor.add', stripId: 'a', processor: newProcessor('gate', `g${i}`), index: 0 }),
      base(),
    );
    const oneMore: Edit = { kind: 'processor.add', stripId: 'a', processor: newProcessor('gate', 'more'), index: 0 };
    expect(() => applyEdit(full, oneMore)).toThrow('at most 16 processors');
    const wrong: Edit = { ...(duck(OWN_KEY) as Extract<Edit, { kind: 'processor.set' }>), processorId: 'squeeze' };
    expect(() => applyEdit(base(), wrong)).toThrow('This compressor is no ducker');
  });

  test('figures are those of the kind, within their ranges', () => {
    for (const kind of PROCESSOR_KINDS) {
      const processor = newProcessor(kind, 'p');
      const edit: Edit = { kind: 'processor.add', stripId: 'a', processor, index: 0 };
      expect(editSchema.safeParse(edit).error).toBeUndefined();
      for (const [field, { min, max }] of Object.entries(FIGURES[kind])) {
        const set = (value: number) =>
          editSchema.safeParse({
            kind: 'processor.set',
            processorKind: kind,
            stripId: 'a',
            processorId: 'p',
            changes: { [field]: value },
          }).success;
        expect([set(min), set(max), set(min - 0.01), set(max + 0.01)]).toEqual([true, true, false, false]);
      }
    }
  });
});
