import fc from 'fast-check';
import { emptySong, newBus, newTrack, type Song } from '../song';
import {
  nameByPattern,
  partSpans,
  plainName,
  plainOrder,
  plannedFiles,
  renderableStrips,
  stripsThatAddUp,
  TailFinder,
  targetGainDb,
  targetRemark,
  unknownWords,
  unlike,
} from '.';

const track = (id: string, changes: object = {}) => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 480000 }, { id, name: id, ink: 0 }),
  ...changes,
});
const bus = (id: string, changes: object = {}) => ({ ...newBus({ id, name: id, ink: 0 }), ...changes });
const song: Song = {
  ...emptySong('Lantern Ferry', 48000),
  parts: [
    { name: 'Refrain', startSeconds: 4 },
    { name: 'Verse', startSeconds: 1 },
  ],
  tracks: [track('Cello', { outputId: 'Strings' }), track('Voice'), track('Harp', { muted: true })],
  buses: [bus('Strings'), bus('Room')],
};

test('files of an order: span by span, mix first, strips in the order of the song; what is muted has none', () => {
  const files = plannedFiles(song, {
    ...plainOrder,
    beforeMaster: true,
    strips: ['Room', 'Cello', 'Harp', 'nobody'],
    spans: partSpans(song),
  });
  expect(files.map(({ name }) => name)).toEqual([
    'Lantern-Ferry-Verse-mix.wav',
    'Lantern-Ferry-Verse-before-the-master.wav',
    'Lantern-Ferry-Verse-Cello.wav',
    'Lantern-Ferry-Verse-Room.wav',
    'Lantern-Ferry-Refrain-mix.wav',
    'Lantern-Ferry-Refrain-before-the-master.wav',
    'Lantern-Ferry-Refrain-Cello.wav',
    'Lantern-Ferry-Refrain-Room.wav',
  ]);
  expect(files[2]).toMatchObject({ what: 'Cello', span: { startSeconds: 1, endSeconds: 4 }, throughMaster: false });
  expect(plannedFiles(song, plainOrder).map(({ name }) => name)).toEqual(['Lantern-Ferry-mix.wav']);
});

test('a span beyond the end makes no file; the last part lasts to the end', () => {
  expect(plannedFiles(song, { ...plainOrder, spans: [{ name: 'x', startSeconds: 11, endSeconds: 12 }] })).toEqual([]);
  expect(partSpans(song).at(-1)).toEqual({ name: 'Refrain', startSeconds: 4, endSeconds: 10 });
});

test('what adds up to the mix: heard strips that run straight into the master', () => {
  expect(stripsThatAddUp(song)).toEqual(['Voice', 'Strings', 'Room']);
  expect(renderableStrips(song).map(({ id, kind }) => `${id} ${kind}`)).toEqual([
    'Cello track',
    'Voice track',
    'Strings group',
    'Room return',
  ]);
  const soloed = { ...song, tracks: [track('Cello', { soloed: true }), track('Voice')] };
  expect(renderableStrips(soloed).map(({ id }) => id)).not.toContain('Voice');
});

test.each([
  ['Lantern Ferry', 'Lantern-Ferry'],
  ['Über / die "Brücke"', 'Über-die-Brücke'],
  ['Паром', 'Паром'],
  ['../..', ''],
  ['CON', 'CON-'],
  [' - a -- b_c - ', 'a-b-c'],
])('%s becomes the file name %s', (text, name) => expect(plainName(text)).toBe(name));

test('no pattern and no names make a file name that leads anywhere else, or two of one name', () => {
  fc.assert(
    fc.property(fc.string(), fc.array(fc.string({ unit: 'grapheme' }), { maxLength: 8 }), (pattern, names) => {
      const taken = new Set<string>();
      const made = names.map((strip) =>
        unlike(nameByPattern(pattern, { song: strip, part: '', strip, number: '01' }), taken),
      );
      expect(new Set(made.map((name) => name.toLowerCase())).size).toBe(names.length);
      for (const name of made) {
        expect(name).toMatch(/^[\p{L}\p{M}\p{N}-]+$/u);
        expect([...name].length).toBeLessThan(160);
      }
    }),
  );
});

test('words of a pattern that stand for nothing are found', () => {
  expect(unknownWords('{song} {titel} {strip}{}')).toEqual(['titel', '']);
});

/** A tone that stops, and a tail that falls 60 dB in a time. */
function tailOf(rt60: number, before = 2) {
  const rateHz = 48000;
  const finder = new TailFinder(rateHz, before * rateHz);
  const frames = (before + 20) * rateHz;
  const side = Float64Array.from({ length: frames }, (_, n) => {
    const after = n / rateHz - before;
    return 0.5 * Math.sin(n / 9) * (after < 0 ? 1 : 10 ** ((-3 * after) / rt60));
  });
  finder.push(side, side, frames);
  return finder.frames / rateHz;
}

test('a tail is over when it is 60 dB down: after the reverberation time (ISO 3382-1)', () => {
  for (const rt60 of [0.3, 1, 4.2]) expect(Math.abs(tailOf(rt60) - rt60)).toBeLessThan(0.1);
});

test('after silence there is no tail', () => {
  const finder = new TailFinder(48000, 48000);
  const silence = new Float64Array(96000);
  finder.push(silence, silence, 96000);
  expect(finder.frames).toBe(0);
});

test('the gain to a target: by gain alone no more than peaks leave room for, and it says so', () => {
  const target = { lufs: -14, ceilingDbtp: -1, by: 'gain' as const };
  expect(targetGainDb({ integratedLufs: -20, truePeakDbtp: -12 }, target)).toBeCloseTo(6, 9);
  const held = targetGainDb({ integratedLufs: -20, truePeakDbtp: -3 }, target);
  expect(held).toBeLessThan(2);
  expect(targetRemark({ integratedLufs: -18, truePeakDbtp: -1 }, target, 0)).toContain(
    '−18.0 LUFS in place of −14.0 LUFS',
  );
  expect(targetGainDb({ integratedLufs: -20, truePeakDbtp: -3 }, { ...target, by: 'limiter' })).toBeCloseTo(6, 9);
  expect(targetGainDb({ integratedLufs: null, truePeakDbtp: -200 }, target)).toBe(0);
  expect(targetRemark({ integratedLufs: -14, truePeakDbtp: -2 }, target, 0)).toBeUndefined();
});
