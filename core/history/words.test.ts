import { applyEdit, emptySong, newBandSettings, newTrack, type Edit, type Song } from '../song';
import { describeEdit } from './words';

const cello = newTrack(
  { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 48000 },
  { id: 'c', name: 'Cello', ink: 0 },
);
const band = { ...newBandSettings('high-pass', 80), id: 'b', letter: 'A' };
const song: Song = {
  ...emptySong('Lantern Ferry'),
  tracks: [{ ...cello, chain: [{ ...cello.chain[0], bands: [band] } as never] }],
};
const words = (edit: Edit, before = song) => describeEdit(before, applyEdit(before, edit), edit);

test.each<[Edit, string[]]>([
  [
    { kind: 'band.set', stripId: 'c', equalizerId: 'c-equalizer', bandId: 'b', changes: { frequencyHz: 110 } },
    ['Cello: high-pass 80 → 110 Hz'],
  ],
  [
    { kind: 'strip.set', stripId: 'c', changes: { gainDb: -3, muted: true } },
    ['Cello: level 0.0 → −3.0 dB', 'Cello: muted'],
  ],
  [{ kind: 'song.set', changes: { title: 'Ferry' } }, ['Title “Lantern Ferry” → “Ferry”']],
  [{ kind: 'song.set', changes: { loop: { startSeconds: 2, endSeconds: 65, enabled: true } } }, ['Loop 0:02 to 1:05']],
  [{ kind: 'draft.keep', draftId: 'd', name: 'Bold' }, ['Draft “Bold” kept']],
  [{ kind: 'track.remove', trackId: 'c' }, ['Cello: removed']],
])('an edit in words', (edit, lines) => expect(words(edit)).toEqual(lines));

test('a draft that is taken says which, and what it changes', () => {
  const kept = applyEdit(song, { kind: 'draft.keep', draftId: 'd', name: 'Bold' });
  const louder = applyEdit(kept, { kind: 'strip.set', stripId: 'c', changes: { gainDb: 2 } });
  expect(words({ kind: 'draft.take', draftId: 'd' }, louder)).toEqual([
    'Draft “Bold” taken',
    'Cello: level +2.0 → 0.0 dB',
  ]);
});
