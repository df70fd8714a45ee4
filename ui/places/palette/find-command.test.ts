import { answer, nearAnswer } from './find-command';

const COMMANDS: [name: string, also?: string[]][] = [
  ['Move the processor towards the beginning of its chain'],
  ['Before and after for the client …', ['proof', 'page']],
  ['Render …', ['export', 'stems']],
  ['Compare the mix before and after', ['bypass']],
  ['Loop on or off'],
  ['See the loop, or the whole song again'],
];
const found = (typed: string, by = answer) =>
  COMMANDS.map(([name, also]) => ({ name, mark: by(name, typed, also) }))
    .filter(({ mark }) => mark > 0)
    .sort((first, second) => second.mark - first.mark)
    .map(({ name }) => name);

test('another word for it finds a command, and letters strewn over a name do not', () => {
  expect(found('proof')).toEqual(['Before and after for the client …']);
  expect(found('export')).toEqual(['Render …']);
  expect(found('mtpb')).toEqual([]);
});

test('every word must be there, in any order, begun or whole', () => {
  expect(found('after mix')).toEqual(['Compare the mix before and after']);
  expect(found('befo and')).toHaveLength(2);
  expect(found('before loop')).toEqual([]);
});

test('what a name begins with comes first', () => {
  expect(found('loop')).toEqual(['Loop on or off', 'See the loop, or the whole song again']);
  expect(found('before')[0]).toBe('Before and after for the client …');
});

test.each([
  ['redner', ['Render …']],
  ['rendder', ['Render …']],
  ['exprt', ['Render …']],
  ['bypsas', ['Compare the mix before and after']],
  ['procesor move', ['Move the processor towards the beginning of its chain']],
  ['proxf', ['Before and after for the client …']],
  // Two slips, another beginning, a short word: no answer.
  ['rednr', []],
  ['pender', []],
  ['lop', []],
  ['render loop', []],
])('one slip in a word is understood where nothing else is found: %s', (typed, names) => {
  expect(found(typed)).toEqual([]);
  expect(found(typed, nearAnswer)).toEqual(names);
});
