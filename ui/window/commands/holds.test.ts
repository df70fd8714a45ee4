import { Holds, type Hold } from './holds';

const press = (key: string, more: Partial<KeyboardEvent> = {}) => ({ key, ...more }) as KeyboardEvent;

function setUp() {
  const told: string[] = [];
  const hold = (key: string, more: Partial<Hold> = {}): Hold => ({
    key,
    begin: () => told.push(`${key} begins`),
    end: () => told.push(`${key} ends`),
    ...more,
  });
  const marking = { onKey: (event: KeyboardEvent) => event.key === 'm' && told.push('p marks') > 0 };
  return { told, holds: new Holds([hold('p', marking), hold('e'), hold('b', { duringDrag: true })]) };
}

test('a key is held from its press to its release, however often it repeats', () => {
  const { told, holds } = setUp();
  expect(holds.begins(press('p'))).toBe(true);
  expect(holds.takes(press('p', { repeat: true }))).toBe(true);
  holds.up({ key: 'P' });
  holds.up({ key: 'p' });
  expect(told).toEqual(['p begins', 'p ends']);
});

test('what was let go while ⌘ was down ends with it', () => {
  const { told, holds } = setUp();
  holds.begins(press('p'));
  holds.up({ key: 'Meta' });
  expect(told).toEqual(['p begins', 'p ends']);
  holds.up({ key: 'Meta' });
  expect(told).toHaveLength(2);
});

test('other keys go to what is held first, and are left alone where they mean nothing', () => {
  const { told, holds } = setUp();
  holds.begins(press('p'));
  expect(holds.takes(press('m'))).toBe(true);
  expect(holds.takes(press('x'))).toBe(false);
  // A second held key does not begin beside the first.
  expect(holds.begins(press('e'))).toBe(false);
  expect(told).toEqual(['p begins', 'p marks']);
});

test('what stays without being held hears its keys', () => {
  const { told, holds } = setUp();
  expect(holds.takes(press('m'))).toBe(true);
  expect(told).toEqual(['p marks']);
});

test('with a modifier it is another key; a window that is left lets go', () => {
  const { told, holds } = setUp();
  expect(holds.begins(press('e', { shiftKey: true }))).toBe(false);
  expect(holds.begins(press('p', { ctrlKey: true }))).toBe(false);
  holds.begins(press('e'));
  holds.release();
  holds.up({ key: 'e' });
  expect(told).toEqual(['e begins', 'e ends']);
});

test('in the middle of a drag only what leaves it alone begins', () => {
  const { told, holds } = setUp();
  expect(holds.begins(press('p'), true)).toBe(false);
  expect(holds.begins(press('b'), true)).toBe(true);
  expect(told).toEqual(['b begins']);
});
