import { loadText } from './load-text';

test.each([
  [0, 0, '', 'engine 0 %'],
  [0.334, 0, 'the server does not answer', 'engine 33 %'],
  [0.1, 1, '', 'engine 10 %, sound came too late once'],
  [0.1, 3, 'the server does not answer', 'engine 10 %, sound came too late 3 times: the server does not answer'],
  [0.97, 0, '', 'engine 97 %, too much for this machine'],
])('a load of %d, late %d times: what the foot says', (load, late, why, said) => {
  expect(loadText(load, late, why)).toBe(said);
});
