/** @jest-environment jsdom */
import { keyName, matchesKey, withKeysOfHere } from './keys';

const press = (key: string, held: Partial<KeyboardEvent> = {}) => ({
  key,
  code: '',
  ctrlKey: false,
  metaKey: false,
  shiftKey: false,
  altKey: false,
  ...held,
});

test('letters are strict about Shift and Alt, signs are not', () => {
  expect(matchesKey(press('m'), { key: 'm' })).toBe(true);
  expect(matchesKey(press('M', { shiftKey: true }), { key: 'm' })).toBe(false);
  expect(matchesKey(press('M', { shiftKey: true }), { key: 'm', shift: true })).toBe(true);
  expect(matchesKey(press('ArrowUp', { altKey: true }), { key: 'ArrowUp' })).toBe(false);
  expect(matchesKey(press('[', { altKey: true }), { key: '[' })).toBe(true);
});

test('Ctrl and Cmd are one', () => {
  expect(matchesKey(press('z', { ctrlKey: true }), { key: 'z', mod: true })).toBe(true);
  expect(matchesKey(press('z', { metaKey: true }), { key: 'z', mod: true })).toBe(true);
  expect(matchesKey(press('z'), { key: 'z', mod: true })).toBe(false);
  expect(matchesKey(press('Z', { metaKey: true, shiftKey: true }), { key: 'z', mod: true })).toBe(false);
});

test('keys as people read them', () => {
  expect(keyName({ key: 'z', mod: true, shift: true })).toBe('Ctrl Shift Z');
  expect(keyName({ key: ' ' })).toBe('Space');
  expect(keyName({ key: 'ArrowUp', alt: true })).toBe('Alt ↑');
  expect(keyName({ key: '[' })).toBe('[');
  expect(withKeysOfHere('↑ ↓ here · Ctrl C copies it')).toBe('↑ ↓ here · Ctrl C copies it');
});

test('a Mac has other keys', () => {
  const platform = jest.spyOn(navigator, 'platform', 'get').mockReturnValue('MacIntel');
  expect(keyName({ key: 'ArrowUp', mod: true, alt: true })).toBe('⌘ ⌥ ↑');
  expect(withKeysOfHere('Ctrl-click takes more lanes in · Ctrl C copies')).toBe(
    '⌘-click takes more lanes in · ⌘ C copies',
  );
  platform.mockRestore();
});
