import { newId } from './ids';

test('ids begin with a letter, so that no command line takes one for an option', () => {
  const ids = Array.from({ length: 5000 }, () => newId(12));
  expect(ids.filter((id) => !/^[A-Za-z][A-Za-z0-9]{11}$/.test(id))).toEqual([]);
  expect(new Set(ids).size).toBe(ids.length);
});
