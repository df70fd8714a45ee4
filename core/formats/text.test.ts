import { folded, nameWithin } from './text';

test('accents and capitals make no difference, however they are encoded', () => {
  const composed = 'Bläser Été';
  expect(folded(composed)).toBe('blaser ete');
  expect(folded(composed.normalize('NFD'))).toBe('blaser ete');
  expect(folded('Скрипка й')).toBe('скрипка и');
});

test('a long name is cut, but no letter', () => {
  expect(nameWithin('a'.repeat(200))).toBe('a'.repeat(120));
  expect(nameWithin(`${'a'.repeat(119)}🎻`)).toBe('a'.repeat(119));
  expect(nameWithin(`${'a'.repeat(118)}🎻🎻`)).toBe(`${'a'.repeat(118)}🎻`);
});
