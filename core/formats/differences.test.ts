import {
  firstEqualizer,
  applyEdit,
  BAND_DEFAULTS,
  emptySong,
  newBus,
  newTrack,
  type Band,
  type Edit,
  type Song,
} from '../song';
import { describeDifferences } from './differences';

const band = (letter: string, shape: Partial<Band> & Pick<Band, 'type' | 'frequencyHz'>): Band => ({
  ...BAND_DEFAULTS,
  id: letter,
  letter,
  ...shape,
});
const track = newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 }, { id: 'c', name: 'Cello', ink: 0 });
const base: Song = {
  ...emptySong('Test'),
  tracks: [
    {
      ...track,
      chain: [
        {
          ...firstEqualizer(track)!,
          bands: [
            band('A', { type: 'high-pass', frequencyHz: 80, order: 3 }),
            band('B', { type: 'bell', frequencyHz: 285, gainDb: -3.5, q: 2 }),
          ],
        },
      ],
    },
  ],
  buses: [newBus({ id: 'low', name: 'Lows', ink: 1 })],
};
const at = { stripId: 'c', equalizerId: 'c-equalizer' };
const set = (bandId: string, changes: Partial<Band>): Edit => ({ kind: 'band.set', ...at, bandId, changes });

test.each<[string, Edit, string[]]>([
  ['a corner', set('A', { frequencyHz: 110 }), ['Cello: high-pass 80 → 110 Hz']],
  ['a gain', set('B', { gainDb: -5 }), ['Cello: bell −3.5 → −5.0 dB']],
  ['other units', set('B', { frequencyHz: 1200 }), ['Cello: bell 285 Hz → 1.20 kHz']],
  ['a band off', set('B', { enabled: false }), ['Cello: bell off']],
  [
    'a second one of a kind',
    { kind: 'band.add', ...at, band: band('C', { type: 'bell', frequencyHz: 900, gainDb: 2, q: 1 }), index: 2 },
    ['Cello: bell C added, 900 Hz, +2.0 dB, 1.39 oct'],
  ],
  ['one that is gone', { kind: 'band.remove', ...at, bandId: 'A' }, ['Cello: high-pass removed, 80 Hz, 18 dB/oct']],
  ['a fader', { kind: 'strip.set', stripId: 'c', changes: { gainDb: -2 } }, ['Cello: level 0.0 → −2.0 dB']],
  ['a mute', { kind: 'strip.set', stripId: 'c', changes: { muted: true } }, ['Cello: muted']],
  ['a way', { kind: 'strip.set', stripId: 'c', changes: { outputId: 'low' } }, ['Cello: into the master → Lows']],
  ['the master', { kind: 'strip.set', stripId: 'master', changes: { gainDb: 1 } }, ['Master: level 0.0 → +1.0 dB']],
  ['a track', { kind: 'track.remove', trackId: 'c' }, ['Cello: removed']],
])('%s in words', (_, edit, lines) => expect(describeDifferences(base, applyEdit(base, edit))).toEqual(lines));

test('what is alike needs no words', () => expect(describeDifferences(base, { ...base })).toEqual([]));
