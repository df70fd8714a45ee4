import fc from 'fast-check';
import {
  applyEdit,
  emptyEqualizer,
  emptySong,
  invertEdit,
  MASTER_ID,
  newBandSettings,
  newBus,
  newProcessor,
  newTrack,
  songSchema,
  type Band,
  type Edit,
  type FigureRef,
  type Passage,
  type PassageChange,
  type Song,
} from '../song';
import {
  capture,
  describeChanges,
  describeSettings,
  lineAt,
  newPassage,
  overwritten,
  parseValue,
  placePassage,
  repeated,
  rivals,
  settingsAt,
  settingsWithin,
  split,
  thinned,
  writeValue,
  figureOf,
  type Points,
} from '.';

const band = (id: string, changes: Partial<Band> = {}): Band => ({
  ...newBandSettings('bell', 500),
  id,
  letter: id.toUpperCase(),
  gainDb: 6,
  ...changes,
});
const LOW = band('l', { type: 'low-pass', frequencyHz: 400, enabled: false });

function base(passages: Passage[] = []): Song {
  const track = (id: string) =>
    newTrack(
      { audioId: 'ab'.repeat(32), channels: 2, lengthFrames: 960000 },
      { id, name: id === 't' ? 'Cello' : id, ink: 0 },
    );
  return {
    ...emptySong('Test'),
    parts: [
      { name: 'Verse', startSeconds: 0 },
      { name: 'Refrain', startSeconds: 4 },
      { name: 'Verse', startSeconds: 8 },
      { name: 'Refrain', startSeconds: 12 },
    ],
    tracks: [
      {
        ...track('t'),
        chain: [
          { ...emptyEqualizer('e'), bands: [band('b'), LOW] },
          newProcessor('compressor', 'c'),
          newProcessor('reverb', 'r'),
        ],
        sends: [{ busId: 'room', gainDb: -12, tap: 'after-fader', enabled: true }],
      },
      track('u'),
    ],
    buses: [newBus({ id: 'room', name: 'Room', ink: 1 }), newBus({ id: 'hall', name: 'Hall', ink: 2 })],
    passages,
  };
}
const ref = (of: FigureRef['of'], partId: string, field: string, stripId = 't'): FigureRef => ({
  stripId,
  of,
  partId,
  field,
});
const GAIN = ref('band', 'b', 'gainDb');
const to = (figure: FigureRef, value: number | boolean, points: Points = []): PassageChange => ({
  figure,
  value,
  points,
});
const span = (
  startSeconds: number,
  endSeconds: number,
  changes: PassageChange[],
  more: Partial<Passage> = {},
): Passage => ({
  ...newPassage(`${startSeconds}`, `at ${startSeconds}`, startSeconds, endSeconds),
  changes,
  ...more,
});
const bandOf = (song: Song, id: string) => {
  const [equalizer] = song.tracks[0].chain;
  return equalizer.kind === 'equalizer' ? equalizer.bands.find((band) => band.id === id)! : LOW;
};

test.each([
  ['a fade', span(2, 8, [to(GAIN, -9)], { fadeInSeconds: 3 }), (seconds: number) => 6 - 5 * (seconds - 2)],
  [
    'a line',
    span(2, 5, [
      to(GAIN, 0, [
        { atSeconds: 0, value: 9 },
        { atSeconds: 3, value: -3 },
      ]),
    ]),
    (seconds: number) => 9 - 4 * (seconds - 2),
  ],
])('with linear phase %s goes in steps of at most 1.5 dB, each where it is nearest', (_, passage, wanted) => {
  const song = base([passage]);
  const equalizer = { ...emptyEqualizer('e'), phase: 'linear' as const, bands: [band('b')] };
  const linear = { ...song, tracks: [{ ...song.tracks[0], chain: [equalizer] }] };
  const times = Array.from({ length: 100 }, (_none, i) => 2 + (3 * i) / 100);
  const gains = times.map((seconds) => bandOf(settingsAt(linear, seconds), 'b').gainDb);
  gains.forEach((gain, i) => expect(Math.abs(gain - wanted(times[i]))).toBeLessThan(0.751));
  expect(new Set(gains).size).toBe(Math.round(Math.abs(wanted(5) - wanted(2)) / 1.5) + 1);
});

test('a passage holds from its beginning to its end, and no longer', () => {
  const song = base([span(2, 3, [to(GAIN, -4)])]);
  const gain = (seconds: number) => bandOf(settingsAt(song, seconds), 'b').gainDb;
  expect([1.999, 2, 2.999, 3].map(gain)).toEqual([6, -4, -4, 6]);
  expect(settingsAt(song, 5)).toBe(song);
  expect(settingsAt({ ...song, passages: [{ ...song.passages[0], enabled: false }] }, 2.5).tracks).toBe(song.tracks);
});

test('fades are straight on the scale of the figure: decibels, octaves', () => {
  const changes = [to(GAIN, -6), to(ref('band', 'b', 'frequencyHz'), 2000)];
  const song = base([span(0, 4, changes, { fadeInSeconds: 2, fadeOutSeconds: 1 })]);
  expect(bandOf(settingsAt(song, 1), 'b')).toMatchObject({ gainDb: 0, frequencyHz: 1000 });
  expect(bandOf(settingsAt(song, 3.75), 'b').gainDb).toBeCloseTo(3, 9);
});

test('a band that a passage switches on fades in from where it has no effect', () => {
  const on = to(ref('band', 'l', 'enabled'), true);
  const song = base([span(0, 4, [on], { fadeInSeconds: 2 })]);
  const half = bandOf(settingsAt(song, 1), 'l');
  expect(half.enabled).toBe(true);
  // Half of the way from 30 kHz to 400 Hz, in octaves.
  expect(half.frequencyHz).toBeCloseTo(Math.sqrt(30000 * 400), 6);
  expect(bandOf(settingsAt(song, 2), 'l').frequencyHz).toBe(400);
});

test('lines go straight from point to point, and stay level before and behind', () => {
  const figure = { min: 10, max: 30000, unit: 'Hz', scale: 'logarithmic' } as const;
  const points = [
    { atSeconds: 1, value: 100 },
    { atSeconds: 3, value: 400 },
  ];
  expect([0, 1, 2, 3, 9].map((seconds) => lineAt(figure, points, seconds))).toEqual([100, 100, 200, 400, 400]);
});

test('of two passages that set the same the later one stands, and both know it', () => {
  const [early, late] = [span(0, 4, [to(GAIN, -1)]), span(2, 3, [to(GAIN, -2)])];
  const song = base([late, early]);
  expect([1, 2.5, 3.5].map((seconds) => bandOf(settingsAt(song, seconds), 'b').gainDb)).toEqual([-1, -2, -1]);
  expect(rivals(song.passages, late)).toEqual({ over: [early], under: [] });
  expect(rivals(song.passages, early)).toEqual({ over: [], under: [late] });
  expect(rivals(song.passages, { ...late, enabled: false })).toEqual({ over: [], under: [] });
});

test('what is seen of an open passage is all of it, whatever its fades', () => {
  const song = base([span(2, 4, [to(GAIN, -4)], { fadeInSeconds: 1, enabled: false })]);
  expect(bandOf(settingsWithin(song, '2', 0), 'b').gainDb).toBe(-4);
  expect(settingsWithin(song, 'gone', 0)).toBe(song);
});

const open = { passageId: '2', seconds: 3 };
const place = { stripId: 't', equalizerId: 'e' };
const captured = (edit: Edit, song = base([span(2, 4, [])])) => {
  const made = capture(song, open, edit);
  return made ? applyEdit(song, made) : song;
};
const outside = (song: Song) => ({ ...song, passages: [] });

test.each<[string, Edit, Partial<Record<string, unknown>>]>([
  ['gain', { kind: 'band.set', ...place, bandId: 'b', changes: { gainDb: -3 } }, { 't/band/b/gainDb': -3 }],
  ['level', { kind: 'strip.set', stripId: 't', changes: { gainDb: -5 } }, { 't/strip//gainDb': -5 }],
  ['mute', { kind: 'strip.set', stripId: 'u', changes: { muted: true } }, { 'u/strip//muted': true }],
  ['master', { kind: 'strip.set', stripId: MASTER_ID, changes: { gainDb: 1 } }, { 'master/strip//gainDb': 1 }],
  [
    'equalizer off',
    { kind: 'equalizer.set', ...place, changes: { enabled: false } },
    { 't/processor/e/enabled': false },
  ],
  [
    'threshold',
    {
      kind: 'processor.set',
      processorKind: 'compressor',
      stripId: 't',
      processorId: 'c',
      changes: { thresholdDb: -20 },
    },
    { 't/processor/c/thresholdDb': -20 },
  ],
  ['a band taken away', { kind: 'band.remove', ...place, bandId: 'b' }, { 't/band/b/enabled': false }],
  [
    'a send turned up, another away',
    { kind: 'strip.set', stripId: 't', changes: { sends: [] } },
    { 't/send/room/enabled': false },
  ],
])('%s: what is done while a passage is open belongs to it, and the rest of the song stays', (_, edit, wanted) => {
  const song = base([span(2, 4, [])]);
  const after = captured(edit, song);
  expect(outside(after)).toEqual(outside(song));
  const set = Object.fromEntries(
    after.passages[0].changes.map(({ figure: { stripId, of, partId, field }, value }) => [
      [stripId, of, partId, field].join('/'),
      value,
    ]),
  );
  expect(set).toEqual(wanted);
  expect(applyEdit(after, invertEdit(song, capture(song, open, edit)!))).toEqual(song);
});

test('what is added while a passage is open is off in the rest of the song', () => {
  const added = captured({ kind: 'band.add', ...place, band: band('n'), index: 2 });
  expect(bandOf(added, 'n').enabled).toBe(false);
  expect(bandOf(settingsAt(added, 3), 'n').enabled).toBe(true);
  const gone = captured({ kind: 'band.remove', ...place, bandId: 'n' }, added);
  expect(gone.passages[0].changes).toEqual([]);
  expect(bandOf(gone, 'n')).toBeUndefined();
  const sends = [...base().tracks[0].sends, { busId: 'hall', gainDb: -6, tap: 'after-fader' as const, enabled: true }];
  const thrown = captured({ kind: 'strip.set', stripId: 't', changes: { sends } });
  expect(thrown.tracks[0].sends[1]).toMatchObject({ busId: 'hall', enabled: false });
  expect(settingsAt(thrown, 3).tracks[0].sends[1].enabled).toBe(true);
});

test('a figure that is set back to what it is in the song is no difference any more', () => {
  const there = captured({ kind: 'band.set', ...place, bandId: 'b', changes: { gainDb: -3 } });
  expect(
    captured({ kind: 'band.set', ...place, bandId: 'b', changes: { gainDb: 6 } }, there).passages[0].changes,
  ).toEqual([]);
});

test('beside another passage that sets it too, a figure as in the song is a difference', () => {
  const song = base([span(2, 4, []), span(1, 5, [to(GAIN, -9)])]);
  const after = captured({ kind: 'band.set', ...place, bandId: 'b', changes: { gainDb: 6 } }, song);
  expect(bandOf(settingsAt(after, 3), 'b').gainDb).toBe(6);
  expect(bandOf(settingsAt(after, 4.5), 'b').gainDb).toBe(-9);
});

test('a figure with a line is moved with all of it, through the value at the playhead', () => {
  const points = [
    { atSeconds: 0, value: 200 },
    { atSeconds: 2, value: 800 },
  ];
  const song = base([span(2, 4, [to(ref('band', 'b', 'frequencyHz'), 200, points)])]);
  const after = captured({ kind: 'band.set', ...place, bandId: 'b', changes: { frequencyHz: 800 } }, song);
  // In the middle it was 400 Hz: an octave up.
  expect(after.passages[0].changes[0].points.map(({ value }) => value)).toEqual([400, 1600]);
});

test('names, notes and solo are the song’s; what cannot differ is refused in words, and says how to go on', () => {
  expect(captured({ kind: 'strip.set', stripId: 't', changes: { name: 'Viola' } }).tracks[0].name).toBe('Viola');
  expect(captured({ kind: 'band.set', ...place, bandId: 'b', changes: { note: 'warm' } }).passages[0].changes).toEqual(
    [],
  );
  const refused: Edit[] = [
    { kind: 'band.set', ...place, bandId: 'b', changes: { type: 'notch' } },
    { kind: 'equalizer.set', ...place, changes: { phase: 'linear' } },
    { kind: 'processor.move', stripId: 't', processorId: 'c', index: 0 },
    { kind: 'strip.set', stripId: 't', changes: { outputId: 'hall' } },
    { kind: 'strip.set', stripId: 't', changes: { delayMs: 3 } },
    { kind: 'processor.set', processorKind: 'reverb', stripId: 't', processorId: 'r', changes: { decaySeconds: 3 } },
    { kind: 'track.remove', trackId: 't' },
  ];
  for (const edit of refused) expect(() => captured(edit)).toThrow(/passage is open/);
});

test('random edits while a passage is open leave a valid song that sounds as before outside of it (seed 3)', () => {
  const gain = fc.double({ min: -30, max: 20, noNaN: true });
  const edit: fc.Arbitrary<Edit> = fc.oneof(
    gain.map((gainDb): Edit => ({ kind: 'band.set', ...place, bandId: 'b', changes: { gainDb } })),
    gain.map((gainDb): Edit => ({ kind: 'strip.set', stripId: 'u', changes: { gainDb, muted: gainDb > 0 } })),
    fc.boolean().map((enabled): Edit => ({ kind: 'equalizer.set', ...place, changes: { enabled } })),
    fc.constantFrom('n', 'm').map((id): Edit => ({ kind: 'band.add', ...place, band: band(id), index: 1 })),
    fc.constantFrom('b', 'l', 'n', 'm').map((bandId): Edit => ({ kind: 'band.remove', ...place, bandId })),
  );
  fc.assert(
    fc.property(fc.array(edit, { maxLength: 8 }), (edits) => {
      const first = base([span(2, 4, [])]);
      let song = first;
      for (const change of edits) {
        try {
          song = captured(change, song);
        } catch {
          continue;
        }
      }
      expect(songSchema.parse(song)).toEqual(song);
      const heard = (tune: Song) =>
        tune.tracks.map(({ chain, ...track }) => [
          track,
          chain.map((part) => (part.kind === 'equalizer' ? part.bands.filter(({ enabled }) => enabled) : part)),
        ]);
      expect(heard(song)).toEqual(heard(first));
    }),
    { seed: 3 },
  );
});

test('a line is thinned to few points that stray by no more than 1 %', () => {
  const figure = { min: 10, max: 30000, unit: 'Hz', scale: 'logarithmic' } as const;
  const value = (seconds: number) => 200 * 2 ** (3 * seconds + 0.2 * Math.sin(4 * seconds));
  const points = Array.from({ length: 200 }, (_, n) => ({ atSeconds: n / 50, value: value(n / 50) }));
  const few = thinned(figure, points);
  expect(few.length).toBeLessThan(60);
  for (const point of points)
    expect(Math.abs(lineAt(figure, few, point.atSeconds) / point.value - 1)).toBeLessThan(0.0101);
  expect(thinned(figure, points.slice(0, 1))).toHaveLength(1);
  const steady = points.map((point) => ({ ...point, value: 500 }));
  expect(thinned(figure, steady)).toHaveLength(2);
});

test('what is recorded takes the place of what was there, and no more', () => {
  const at = (...times: number[]) => times.map((atSeconds) => ({ atSeconds, value: atSeconds }));
  expect(overwritten(at(0, 1, 2, 3), at(0.9, 1.5, 2.5)).map(({ atSeconds }) => atSeconds)).toEqual([
    0, 0.9, 1.5, 2.5, 3,
  ]);
});

test('a passage is moved, stretched with its lines, and its fades still fit', () => {
  const points = [
    { atSeconds: 0, value: 1 },
    { atSeconds: 2, value: 3 },
  ];
  const passage = span(2, 4, [to(GAIN, 1, points)], { fadeInSeconds: 1.5, fadeOutSeconds: 0.5 });
  const song = base([passage]);
  const moved = applyEdit(song, placePassage(passage, 5, 7)!).passages[0];
  expect(moved).toMatchObject({ startSeconds: 5, endSeconds: 7, fadeInSeconds: 1.5 });
  expect(moved.changes[0].points).toEqual(points);
  const half = applyEdit(song, placePassage(passage, 2, 3)!).passages[0];
  expect(half.changes[0].points.map(({ atSeconds }) => atSeconds)).toEqual([0, 1]);
  expect(half.fadeInSeconds + half.fadeOutSeconds).toBeLessThanOrEqual(1);
  expect(placePassage(passage, 2, 4)).toBeNull();
});

test('both halves of a split passage do what it did', () => {
  const points = [
    { atSeconds: 0, value: -8 },
    { atSeconds: 2, value: 4 },
  ];
  const passage = span(2, 4, [to(GAIN, -8, points)]);
  const song = base([passage]);
  const halves = applyEdit(song, split(song, passage, 2.5)!);
  expect(halves.passages).toHaveLength(2);
  for (const seconds of [2.1, 2.499, 2.5, 3.3, 3.9])
    expect(bandOf(settingsAt(halves, seconds), 'b').gainDb).toBeCloseTo(
      bandOf(settingsAt(song, seconds), 'b').gainDb,
      3,
    );
  expect(split(song, passage, 9)).toBeNull();
});

test('a passage before a refrain is repeated before every other one, and within a verse at the same place of the others', () => {
  const before = span(3, 4, [to(GAIN, -4)]);
  const song = base([before]);
  const made = repeated(song, before)!;
  expect(made.places).toBe(1);
  expect(applyEdit(song, made.edit).passages.map(({ startSeconds }) => startSeconds)).toEqual([3, 11]);
  expect(repeated(applyEdit(song, made.edit), before)).toBeNull();
  const within = span(1, 2, [to(GAIN, -4)]);
  expect(applyEdit(base([within]), repeated(base([within]), within)!.edit).passages[1].startSeconds).toBe(9);
});

test('differences are told in words, and values are read as they are written', () => {
  const song = base([]);
  const changes = [
    to(ref('band', 'l', 'enabled'), true),
    to(ref('band', 'l', 'frequencyHz'), 200, [
      { atSeconds: 0, value: 200 },
      { atSeconds: 2, value: 20000 },
    ]),
    to(ref('strip', '', 'muted', 'u'), true),
    to(ref('send', 'room', 'gainDb'), -3),
    to(ref('band', 'gone', 'gainDb'), -3),
  ];
  expect(describeChanges(song, changes)).toEqual([
    'Cello, band L (low-pass): on, frequency 200 Hz to 20.00 kHz',
    'u: muted',
    'Cello, send to Room: level −3.0 dB',
  ]);
  for (const figure of [
    GAIN,
    ref('band', 'b', 'frequencyHz'),
    ref('strip', '', 'pan'),
    ref('processor', 'c', 'thresholdDb'),
  ]) {
    const scale = figureOf(song, figure);
    if (scale?.kind !== 'figure') throw new Error('no figure');
    const value = figure.field === 'frequencyHz' ? 1250 : figure.field === 'pan' ? -0.5 : -12;
    expect(parseValue(figure, scale, writeValue(figure, scale, value))).toBeCloseTo(value, 6);
  }
});

test('what two states have otherwise is told of their passages too', () => {
  const song = base([span(2, 4, [to(GAIN, -4)])]);
  const changes: Edit[] = [
    { kind: 'passage.set', passageId: '2', changes: { name: 'Radio', endSeconds: 5, enabled: false } },
    { kind: 'passage.figure', passageId: '2', figure: GAIN, changes: { to: { value: -6, points: [] } } },
    { kind: 'passage.add', passage: span(7, 8, []), index: 1 },
  ];
  const after = changes.reduce(applyEdit, song);
  expect(describeSettings(song, after)).toEqual([
    'Passage “Radio” was called “at 2”',
    'Passage “Radio” from 0:02.0 to 0:04.0 → 0:02.0 to 0:05.0',
    'Passage “Radio” off',
    'Passage “Radio”: Cello, band B: gain −6.0 dB',
    'Passage “Radio” no longer: Cello, band B: gain −4.0 dB',
    'Passage “at 7” added, 0:07.0 to 0:08.0',
  ]);
  expect(describeSettings(after, song)).toContain('Passage “at 7” removed');
  expect(describeSettings(song, song)).toEqual([]);
});
