import { startsOf } from './upload';

test('files of one session begin where they were recorded, the earliest at the beginning', () => {
  expect(startsOf([36000, 36002.5, 36000])).toEqual([0, 2.5, 0]);
});

test('where one of them does not say it, or they are too far apart, all begin with the song; so does one alone', () => {
  expect(startsOf([36000, null])).toEqual([0, 0]);
  expect(startsOf([0, 36000])).toEqual([0, 0]);
  expect(startsOf([36000])).toEqual([0]);
  expect(startsOf([])).toEqual([]);
});
