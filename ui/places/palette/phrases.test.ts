import { firstEqualizer, emptySong, newTrack, type Song } from '@/core/song';
import { useSelection } from '../../window/song/selection';
import { songOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { deskWith } from '../../window/testing/open-desk';
import { readPhrase, stripsNamed } from './phrases';

const track = (name: string) =>
  newTrack(
    { audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 },
    { id: name.toLowerCase().replace(/\W/g, '-'), name, ink: 0 },
  );
const song: Song = {
  ...emptySong('Test'),
  tracks: ['Claps', 'Cello', 'Lead voice', 'Harmony high', 'Harmony low', 'Bla\u0308ser'].map(track),
};
const desk = deskWith(song);
const says = (text: string) => readPhrase(desk, song, text).map((phrase) => phrase.says);

test.each([
  ['bell 2.5k -3', ['Add: Bell, 2.50 kHz, −3.0 dB, 1.39 oct']],
  ['hp 120 18', ['Add: High-pass, 120 Hz, 18 dB/oct']],
  ['lp 8k', ['Add: Low-pass, 8.00 kHz, 12 dB/oct']],
  ['mute claps', ['Mute Claps']],
  ['MUTE cl', ['Mute Claps']],
  ['solo voice', ['Solo Lead voice']],
  ['unmute harm', ['Unmute Harmony high', 'Unmute Harmony low']],
  ['level lead voice -3.5 dB', ['Level of Lead voice: −3.5 dB']],
  ['pan cello L 30', ['Position of Cello: L 30']],
  ['go low', ['Go to Harmony low']],
  ['mute bl\u00e4s', ['Mute Bla\u0308ser']],
  ['mute blaser', ['Mute Bla\u0308ser']],
  ['render', []],
])('“%s”', (text, expected) => expect(says(text)).toEqual(expected));

test.each([
  ['mute', 'Of which track?'],
  ['mute nobody', 'No track or group is called “nobody”.'],
  ['hp 120 20', '“20” is no slope'],
  ['level cello', 'Which level?'],
  ['level cello loud', '“loud” is no level'],
  ['pan cello up', '“up” is no position'],
  ['bell', 'Where?'],
])('“%s” is not done, and it is said what is missing', (text, problem) => {
  const [phrase] = readPhrase(desk, song, text);
  expect(phrase).toMatchObject({ says: expect.stringContaining(problem), run: null });
});

test('what it says is what it does, as one step of undo', () => {
  readPhrase(desk, song, 'mute claps')[0].run!();
  expect(songOf(desk).tracks[0].muted).toBe(true);
  useSelection.of(desk).chooseStrip('cello');
  readPhrase(desk, song, 'bell 9k 60')[0].run!();
  expect(firstEqualizer(songOf(desk).tracks[1])!.bands).toMatchObject([{ frequencyHz: 9000, gainDb: 36 }]);
  useSongStore.of(desk).undo();
  expect(firstEqualizer(songOf(desk).tracks[1])!.bands).toEqual([]);
});

test('a name is taken before what begins with it, and that before what holds it', () => {
  const two = { tracks: ['Harp low', 'Harp', 'Sharp'].map(track), buses: [] };
  expect(stripsNamed(two, 'harp').map(({ name }) => name)).toEqual(['Harp']);
  expect(stripsNamed(two, 'har').map(({ name }) => name)).toEqual(['Harp low', 'Harp']);
  expect(stripsNamed(two, 'arp').map(({ name }) => name)).toEqual(['Harp low', 'Harp', 'Sharp']);
});
