import { COMMON_LANDMARKS, landmarksFor } from './landmarks';
import { landmarkSchema } from './schema';

test('every common landmark is a legal one, and has a name of its own', () => {
  for (const landmark of COMMON_LANDMARKS) expect(landmarkSchema.parse(landmark)).toEqual(landmark);
  expect(new Set(COMMON_LANDMARKS.map(({ id }) => id)).size).toBe(COMMON_LANDMARKS.length);
});

// Common practice.
test.each([
  ['voice', ['hum, room, pops', 'mud', 'cheap, boxy', 'sparkle, sibilance']],
  ['Snare, bottom', ['kick bleed', 'body', 'ring', 'smack', 'crack, rattle', 'needless']],
  ['double bass', ['inaudible, eats headroom', 'harmonics in the way']],
  ['harmony voice', ['needless', 'hum, room, pops', 'mud', 'cheap, boxy', 'sparkle, sibilance']],
])('the landmarks of “%s”', (part, names) => {
  const found = landmarksFor(COMMON_LANDMARKS, part).map(({ what }) => what);
  for (const name of names) expect(found).toContain(name);
});

test('what holds for every part is said where the part has nothing of its own there', () => {
  expect(landmarksFor(COMMON_LANDMARKS, '').map(({ what }) => what)).toEqual(['rumble, handling, pops']);
  expect(landmarksFor(COMMON_LANDMARKS, 'voice').map(({ what }) => what)).not.toContain('rumble, handling, pops');
});
