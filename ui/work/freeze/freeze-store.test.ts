/** @jest-environment jsdom */
import { emptyEqualizer, emptySong, newBandSettings, newProcessor, newTrack, type Chain } from '@/core/song';
import { noticesOf } from '../../window/notices/notices';
import { useSelection } from '../../window/song/selection';
import { useFrozen } from '../../window/sound/frozen';
import { deskWith } from '../../window/testing/open-desk';
import { chainCost, toggleFrozen } from './freeze-store';

test('what costs most comes first: a clipper, linear phase, a reverb, a compressor, bands; what is off costs nothing', () => {
  const bell = { ...newBandSettings('bell', 1000), id: 'b', letter: 'A' };
  const equalizer = { ...emptyEqualizer('e'), bands: [bell] };
  const chains: Chain[] = [
    [newProcessor('clipper', 'p')],
    [{ ...equalizer, phase: 'linear' }],
    [newProcessor('reverb', 'p')],
    [newProcessor('compressor', 'p')],
    [equalizer],
    [{ ...newProcessor('clipper', 'p'), enabled: false }],
  ];
  const costs = chains.map((chain) => chainCost({ chain, channels: 2 }));
  expect(costs).toEqual([...costs].sort((first, second) => second - first));
  expect(costs.at(-1)).toBe(0);
  expect(chainCost({ chain: chains[0], channels: 1 })).toBe(costs[0] / 2);
});

test('chosen tracks are frozen together, and live again together; of what is no track it is said', () => {
  const track = (id: string) =>
    newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 48000 }, { id, name: id, ink: 0 });
  const desk = deskWith({ ...emptySong('Test'), tracks: [track('a'), track('b')] });
  useSelection.api(desk).setState({ stripId: 'a', others: ['b'] });
  toggleFrozen(desk);
  expect(useFrozen.of(desk).chosen).toEqual(['a', 'b']);
  toggleFrozen(desk);
  expect(useFrozen.of(desk).chosen).toEqual([]);
  useSelection.api(desk).setState({ stripId: 'master', others: [] });
  toggleFrozen(desk);
  expect(useFrozen.of(desk).chosen).toEqual([]);
  expect(noticesOf(desk).visibleToasts.map(({ content }) => content.text)).toEqual([
    'Only tracks can be frozen: choose one first.',
  ]);
  desk.end();
});
