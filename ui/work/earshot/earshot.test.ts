import { newBandSettings, type Band, type BandType } from '@/core/song';
import { useListening } from '../../window/sound/listening';
import { emptySong } from '@/core/song';
import { deskWith } from '../../window/testing/open-desk';
import { bandExtent, earshotKey, moveEdge, setRange } from './earshot-store';

const band = (type: BandType, more: Partial<Band> = {}): Band => ({
  ...newBandSettings(type, 1000),
  id: 'x',
  letter: 'A',
  ...more,
});
const desk = deskWith(emptySong('Test'));
const range = () => {
  const { lowHz, highHz } = useListening.of(desk).earshot!;
  return [Math.round(lowHz), Math.round(highHz)];
};

test.each<[BandType, number, number]>([
  ['high-pass', 20, 1000],
  ['low-shelf', 20, 1000],
  ['low-pass', 1000, 20000],
  ['high-shelf', 1000, 20000],
  ['bell', 618, 1618],
  ['tilt', 500, 2000],
])('the extent of a %s at 1 kHz', (type, lowHz, highHz) => {
  const extent = bandExtent(band(type));
  expect([Math.round(extent.lowHz), Math.round(extent.highHz)]).toEqual([lowHz, highHz]);
});

test('a range may be swept either way, and is never narrower than a sixth of an octave', () => {
  setRange(desk, 'a', 2000, 500);
  expect(range()).toEqual([500, 2000]);
  setRange(desk, 'a', 1000, 1000);
  expect(range()).toEqual([944, 1059]);
  moveEdge(desk, 'high', 10);
  expect(range()[1] / range()[0]).toBeCloseTo(2 ** (1 / 6), 2);
});

test('keys move, widen and narrow it, and Escape ends it', () => {
  const key = (name: string, more = {}) =>
    earshotKey(desk, { key: name, shiftKey: false, altKey: false, ...more } as KeyboardEvent);
  setRange(desk, 'a', 500, 2000);
  expect(key('ArrowRight', { altKey: true })).toBe(true);
  expect(range()).toEqual([630, 2520]);
  key('ArrowUp', { altKey: true });
  expect(range()).toEqual([500, 3175]);
  key('ArrowDown', { altKey: true });
  expect(range()).toEqual([630, 2520]);
  expect(key('x')).toBe(false);
  key('Escape');
  expect(useListening.of(desk).earshot).toBeNull();
});
