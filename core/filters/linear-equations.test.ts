import { solveLinear } from './linear-equations';

test('equations whose answer is known, though the first has no first unknown', () => {
  const solution = new Float64Array(3);
  const rows = [
    [0, 2, 1, 7],
    [1, 1, 1, 6],
    [2, -1, 3, 9],
  ];
  expect(solveLinear(rows, solution, 3)).toBe(true);
  [1, 2, 3].forEach((value, i) => expect(solution[i]).toBeCloseTo(value, 12));
});

test('equations that say the same twice have no single answer', () => {
  const rows = [
    [1, 2, 3],
    [2, 4, 6],
  ];
  expect(solveLinear(rows, [0, 0], 2)).toBe(false);
});
