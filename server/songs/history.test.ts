import { newTrack, type Edit } from '@/core/song';
import { ownDataFolder } from '../testing/data-folder';
import { historyOf, nameMoment, songAt } from './history';
import { createEmptySong, forget, loadSong, submitEdits } from './store';

ownDataFolder();

let count = 0;
const submit = (songId: string, ...list: Edit[]) =>
  submitEdits(
    songId,
    'me',
    list.map((edit) => ({ id: `edit-${count++}`, edit })),
  );
const cello = newTrack(
  { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 48000 },
  { id: 'c', name: 'Cello', ink: 0 },
);
const level = (gainDb: number): Edit => ({ kind: 'strip.set', stripId: 'c', changes: { gainDb } });

test('moments in words, the latest first; the song is read as it stood at any of them', async () => {
  const { id } = await createEmptySong('History', 48000);
  await submit(id, { kind: 'track.add', track: cello, index: 0 }, level(-2), level(-5));
  const { lines, more } = await historyOf(id);
  expect(more).toBeNull();
  expect(lines.map(({ revision, words }) => `${revision} ${words.join('; ')}`)).toEqual([
    '3 Cello: level −2.0 → −5.0 dB',
    '2 Cello: level 0.0 → −2.0 dB',
    '1 Cello: added',
  ]);
  expect((await songAt(id, 2)).song.tracks[0].gainDb).toBe(-2);
  expect((await songAt(id, 0)).song.tracks).toEqual([]);
  await expect(songAt(id, 9)).rejects.toMatchObject({ code: 'not-found' });
});

test('a moment gets a name, another one, and loses it', async () => {
  const { id } = await createEmptySong('Names', 48000);
  await submit(id, { kind: 'track.add', track: cello, index: 0 }, level(-2));
  await nameMoment(id, 1, 'before the verse');
  await nameMoment(id, 1, 'before the bell');
  expect((await historyOf(id)).named).toMatchObject([{ revision: 1, name: 'before the bell' }]);
  expect((await historyOf(id)).lines.map(({ name }) => name)).toEqual(['', 'before the bell']);
  await nameMoment(id, 1, '');
  expect((await historyOf(id)).named).toEqual([]);
  await expect(nameMoment(id, 99, 'never')).rejects.toMatchObject({ code: 'not-found' });
});

test('a long journal is told a hundred changes at a time, back to its first; every moment is as it was', async () => {
  const { id } = await createEmptySong('Long', 48000);
  await submit(
    id,
    { kind: 'track.add', track: cello, index: 0 },
    ...Array.from({ length: 620 }, (_, i) => level(-(i % 50))),
  );
  forget(id);
  const { revision } = await loadSong(id);
  expect(revision).toBe(621);
  let told = 0;
  let until: number | undefined;
  for (;;) {
    const { lines, more } = await historyOf(id, until);
    told += lines.length;
    if (more === null) break;
    until = more;
  }
  expect(told).toBe(621);
  for (const moment of [1, 250, 499, 500, 501, 555, 620])
    expect(Math.abs((await songAt(id, moment)).song.tracks[0].gainDb)).toBe(moment === 1 ? 0 : (moment - 2) % 50);
});
