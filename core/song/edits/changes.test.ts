import { editSchema, type BandChanges, type Edit } from '../edit-schema';
import { applyEdit, invertEdit, joinEdits } from '.';
import { emptyEqualizer, emptySong, newProcessor, newTrack } from '../model';
import { newBandSettings } from '../band';
import { OWN_KEY } from '../processor';
import type { Band, GivesWay, Key, Range, Song } from '../schema';

const givesWay: GivesWay = {
  amountDb: -6,
  thresholdDb: -30,
  attackMs: 10,
  holdMs: 0,
  releaseMs: 150,
  key: { stripId: OWN_KEY, lowHz: 100, highHz: 300 },
};
const band = (id: string, givesWay: GivesWay | null): Band => ({
  ...newBandSettings('bell', 500),
  id,
  letter: 'A',
  givesWay,
});
const recording = { audioId: 'ab'.repeat(32), channels: 1 as const, lengthFrames: 1000 };

/** A track with a band that gives way, one that stays, a ducker and a reverb; and another one. */
const song: Song = {
  ...emptySong('Two people'),
  tracks: [
    {
      ...newTrack(recording, { id: 'a', name: 'a', ink: 0 }),
      chain: [
        { ...emptyEqualizer('eq'), bands: [band('moves', givesWay), band('stays', null)] },
        { ...newProcessor('ducker', 'duck'), key: { stripId: OWN_KEY, lowHz: 60, highHz: 120 } } as never,
        newProcessor('reverb', 'room'),
      ],
    },
    newTrack(recording, { id: 'b', name: 'b', ink: 0 }),
  ],
};
const setBand = (givesWay: BandChanges['givesWay'], bandId = 'moves'): Edit =>
  editSchema.parse({ kind: 'band.set', stripId: 'a', equalizerId: 'eq', bandId, changes: { givesWay } });
const setKey = (key: Partial<Key>): Edit =>
  editSchema.parse({
    kind: 'processor.set',
    processorKind: 'ducker',
    stripId: 'a',
    processorId: 'duck',
    changes: { key },
  });
const setRange = (range: Partial<Range>): Edit =>
  editSchema.parse({
    kind: 'processor.set',
    processorKind: 'reverb',
    stripId: 'a',
    processorId: 'room',
    changes: { range },
  });

const wayOf = ({ tracks }: Song) => (tracks[0].chain[0] as { bands: Band[] }).bands[0].givesWay;
const at = ({ tracks }: Song, i: number) => tracks[0].chain[i] as unknown as { key: Key; range: Range };
const both = (first: Edit, second: Edit) => applyEdit(applyEdit(song, first), second);

test('of what a band gives way by, two people each have what they set, whoever comes first', () => {
  const [first, second] = [setBand({ thresholdDb: -40 }), setBand({ attackMs: 3, key: { lowHz: 80 } })];
  const wanted = { ...givesWay, thresholdDb: -40, attackMs: 3, key: { ...givesWay.key, lowHz: 80 } };
  expect(wayOf(both(first, second))).toEqual(wanted);
  expect(wayOf(both(second, first))).toEqual(wanted);
});

test('of a key and of a range, two people may move an end each', () => {
  const key = at(both(setKey({ lowHz: 70 }), setKey({ highHz: null })), 1).key;
  expect(key).toEqual({ stripId: OWN_KEY, lowHz: 70, highHz: null });
  const range = at(both(setRange({ highHz: 5000 }), setRange({ lowHz: 300 })), 2).range;
  expect(range).toEqual({ lowHz: 300, highHz: 5000 });
});

test('a part of it is taken back as a part, and what another has set meanwhile stays', () => {
  const mine = setBand({ thresholdDb: -40 });
  const later = both(mine, setBand({ attackMs: 3 }));
  expect(wayOf(applyEdit(later, invertEdit(song, mine)))).toEqual({ ...givesWay, attackMs: 3 });
  const off = setBand(null);
  expect(applyEdit(applyEdit(song, off), invertEdit(song, off))).toEqual(song);
});

test('joined, parts are one change of all that they set', () => {
  const joined = joinEdits(
    setBand({ amountDb: 2, key: { lowHz: 90 } }),
    setBand({ amountDb: 3, key: { highHz: 400 } }),
  );
  expect(joined).toEqual(setBand({ amountDb: 3, key: { lowHz: 90, highHz: 400 } }));
});

test('what does not give way any more, ends that have passed each other, and unknown fields are refused in words', () => {
  expect(() => applyEdit(song, setBand({ amountDb: 2 }, 'stays'))).toThrow('does not give way any more');
  expect(wayOf(applyEdit(song, setBand(givesWay)))).toEqual(givesWay);
  expect(() => both(setKey({ lowHz: 100 }), setKey({ highHz: 90 }))).toThrow('must lie below its upper end');
  expect(() => both(setBand({ key: { lowHz: 250 } }), setBand({ key: { highHz: 200 } }))).toThrow('must lie below');
  expect(() => setBand({ loudness: 3 } as never)).toThrow('loudness');
  expect(() => setKey({ lowHz: 200, highHz: 100 })).not.toThrow();
  expect(() => applyEdit(song, setKey({ lowHz: 200, highHz: 100 }))).toThrow('must lie below');
});
