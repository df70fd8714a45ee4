import { wheelPixels, WheelSteps } from './wheel';

const PIXELS = 0;
const LINES = 1;
/** Turns a wheel: `[milliseconds since the event before, pixels]`. @returns the steps */
function steps(turns: readonly [number, number][], more: { deltaMode?: number; isSideways?: boolean } = {}): number[] {
  const wheel = new WheelSteps();
  let timeStamp = 0;
  return turns.map(([pause, by]) =>
    wheel.turn({
      deltaX: more.isSideways ? by : 0,
      deltaY: more.isSideways ? 0 : by,
      deltaMode: more.deltaMode ?? PIXELS,
      timeStamp: (timeStamp += pause),
    }),
  );
}

test('each notch of a wheel is a step, however fast', () => {
  expect(
    steps([
      [0, -100],
      [16, -100],
      [16, -120],
      [300, 100],
    ]),
  ).toEqual([-1, -1, -1, 1]);
  expect(
    steps(
      [
        [0, 3],
        [16, 3],
      ],
      { deltaMode: LINES },
    ),
  ).toEqual([1, 1]);
  expect(
    steps(
      [
        [0, -100],
        [16, -100],
      ],
      { isSideways: true },
    ),
  ).toEqual([-1, -1]);
});

test('a sweep on a touchpad is as many steps as the notches that it is long', () => {
  const sweep = Array.from({ length: 60 }, (): [number, number] => [16, 5]);
  expect(steps(sweep).filter((step) => step === 1)).toHaveLength(3);
  expect(steps(sweep)[0]).toBe(1);
});

test('turning back is a step at once; standing still is none', () => {
  expect(
    steps([
      [0, 5],
      [16, 30],
      [16, -5],
      [16, -5],
      [16, 0],
    ]),
  ).toEqual([1, 0, -1, 0, 0]);
});

test('lines are as many pixels', () => {
  expect(wheelPixels({ deltaX: 1, deltaY: -3, deltaMode: LINES })).toEqual({ dx: 40, dy: -120 });
  expect(wheelPixels({ deltaX: 1, deltaY: -3, deltaMode: PIXELS })).toEqual({ dx: 1, dy: -3 });
});
