import { Holds, type Hold } from './holds';

const press = (key: string, more: Partial<KeyboardEvent> = {}) => ({ key, ...more }) as KeyboardEvent;

function setUp() {
  const told: string[] = [];
  const hold = (key: string): Hold => ({
    key,
    begin: () => told.push(`${key} begins`),
    end: () => told.push(`${key} ends`),
    onKey: (event) => event.key === 'm' && told.push(`${key} marks`) > 0,
  });
  return { told, holds: new Holds([hold('p'), hold('e')]) };
}

test('a key is held from its press to its release, however often it repeats', () => {
  const { told, holds } = setUp();
  expect(holds.down(press('p'))).toBe(true);
  expect(holds.down(press('p', { repeat: true }))).toBe(true);
  holds.up({ key: 'P' });
  holds.up({ key: 'p' });
  expect(told).toEqual(['p begins', 'p ends']);
});

test('other keys go to what is held first, and are left alone where they mean nothing', () => {
  const { told, holds } = setUp();
  expect(holds.down(press('m'))).toBe(false);
  holds.down(press('p'));
  expect(holds.down(press('m'))).toBe(true);
  expect(holds.down(press('x'))).toBe(false);
  // A second held key does not begin beside the first.
  expect(holds.down(press('e'))).toBe(false);
  expect(told).toEqual(['p begins', 'p marks']);
});

test('with a modifier it is another key; a window that is left lets go', () => {
  const { told, holds } = setUp();
  expect(holds.down(press('e', { shiftKey: true }))).toBe(false);
  expect(holds.down(press('p', { ctrlKey: true }))).toBe(false);
  holds.down(press('e'));
  holds.release();
  holds.up({ key: 'e' });
  expect(told).toEqual(['e begins', 'e ends']);
});
