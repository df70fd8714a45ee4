import fc from 'fast-check';
import { bandAt, BANDS, bandHz } from './grid';
import { roomModes } from './room-modes';

const NOTHING = -6;
/** What speaks for resonances at some places, each a little wider than a band; nothing elsewhere. */
function evidenceAt(placesHz: readonly number[], odds: number): Float64Array {
  const evidence = new Float64Array(BANDS).fill(NOTHING);
  for (const hz of placesHz) {
    const middle = Math.round(bandAt(hz));
    for (const beside of [-1, 0, 1]) evidence[middle + beside] = odds - Math.abs(beside);
  }
  return evidence;
}
const noPartials = new Float32Array(BANDS);
const multiples = (lowestHz: number, count: number) => Array.from({ length: count }, (_, i) => (i + 1) * lowestHz);
const placesOf = (found: ReturnType<typeof roomModes>) => found?.bands.map(bandHz) ?? [];

test('a family is found though none of its modes would be by itself, wherever it begins, each a little off its place', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 36, max: 62, noNaN: true }),
      fc.array(fc.double({ min: 0.99, max: 1.01, noNaN: true }), { minLength: 5, maxLength: 5 }),
      (lowestHz, off) => {
        const modes = multiples(lowestHz, 5).map((hz, i) => hz * off[i]);
        const found = roomModes(evidenceAt(modes, 0), noPartials);
        const named = placesOf(found);
        for (const hz of modes.filter((mode) => mode > 48 && mode < 320))
          expect(named.some((place) => Math.abs(place / hz - 1) < 0.015)).toBe(true);
        expect(found!.sureness).toBeGreaterThan(0.8);
      },
    ),
  );
});

test('two families of three are found together, where one of them would not be', () => {
  const [first, second] = [multiples(41, 3), multiples(57, 3)];
  expect(roomModes(evidenceAt(first, 0), noPartials)).toBeNull();
  const named = placesOf(roomModes(evidenceAt([...first, ...second], 0), noPartials));
  for (const hz of [82, 123, 57, 114, 171]) expect(named.some((place) => Math.abs(place / hz - 1) < 0.03)).toBe(true);
});

test('a lone resonance, two that are no multiples, or nothing, are no family', () => {
  for (const places of [[], [150], [110, 190]]) expect(roomModes(evidenceAt(places, 3), noPartials)).toBeNull();
});

test('where notes are held all the time their partials are no modes; what speaks for more of them still is', () => {
  const held = noPartials.map((_, band) =>
    [110, 220, 330, 440, 550, 660].some((hz) => Math.abs(bandAt(hz) - band) < 1) ? 1 : 0,
  );
  const modes = multiples(55, 5);
  expect(roomModes(evidenceAt(modes, -1.5), noPartials)).not.toBeNull();
  expect(roomModes(evidenceAt(modes, -1.5), held)).toBeNull();
  expect(roomModes(evidenceAt(modes, 1), held)).not.toBeNull();
});
