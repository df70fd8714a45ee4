import { isDeleteKey, plainKey } from './plain-key';

// What browsers say of keys on other keyboards (W3C UI Events KeyboardEvent code Values: `code` names a place by its legend on a US keyboard).
test.each([
  ['a letter, small or not', { key: 'M', code: 'KeyM' }, 'm'],
  ['a letter where another keyboard has it', { key: 'a', code: 'KeyQ' }, 'a'],
  ['Russian, Ctrl Z', { key: 'я', code: 'KeyZ' }, 'z'],
  ['Greek', { key: 'μ', code: 'KeyM' }, 'm'],
  ['Hebrew', { key: 'ד', code: 'KeyS' }, 's'],
  ['a Mac’s Option S', { key: 'ß', code: 'KeyS', altKey: true }, 's'],
  ['a Mac’s Option 1', { key: '¡', code: 'Digit1', altKey: true }, '1'],
  ['a Mac’s Option E, an accent to be', { key: 'Dead', code: 'KeyE', altKey: true }, 'e'],
  ['Japanese, while characters are put together', { key: 'Process', code: 'KeyM' }, 'm'],
  ['French, Alt 1', { key: '&', code: 'Digit1', altKey: true }, '1'],
  ['French, the key of 2', { key: 'é', code: 'Digit2' }, 'é'],
  ['French, the key of 6', { key: '-', code: 'Digit6' }, '-'],
  ['German, a bracket by Option 5', { key: '[', code: 'Digit5', altKey: true }, '['],
  ['Swedish, a letter without a place', { key: 'å', code: 'BracketLeft' }, 'å'],
  ['Polish, ś by AltGr', { key: 'ś', code: 'KeyS', getModifierState: (name: string) => name === 'AltGraph' }, 'ś'],
  ['a named key', { key: 'Enter', code: 'Enter', altKey: true }, 'Enter'],
  ['a space', { key: ' ', code: 'Space' }, ' '],
  ['a key without a place', { key: 'я' }, 'я'],
])('%s', (_, event, meant) => {
  expect(plainKey(event)).toBe(meant);
});

test('Delete and a Mac’s delete take away', () => {
  expect(['Delete', 'Backspace', 'd'].map((key) => isDeleteKey({ key }))).toEqual([true, true, false]);
});
