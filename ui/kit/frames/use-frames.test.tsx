/** @jest-environment jsdom */
import { render } from '@testing-library/react';
import { isLookFrame, keepFrames, useFrames } from './use-frames';

const motion = Object.assign(new EventTarget(), { matches: false });
/** Whether the person wants little motion, as the browser tells it. */
function wantLittleMotion(matches: boolean): void {
  motion.matches = matches;
  motion.dispatchEvent(Object.assign(new Event('change'), { matches }));
}
beforeAll(() => {
  window.matchMedia = () => motion as unknown as MediaQueryList;
});
beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
  wantLittleMotion(false);
});

const seen = { frames: 0, looks: 0 };
const count = () => {
  seen.frames++;
  if (isLookFrame()) seen.looks++;
};
function Counted() {
  useFrames(count);
  return null;
}
/** Frames in so long, and those in which figures look again. */
function framesIn(milliseconds: number) {
  [seen.frames, seen.looks] = [0, 0];
  jest.advanceTimersByTime(milliseconds);
  return { ...seen };
}

test('while somebody does something every frame counts; at rest there are five a second; a deed wakes it at once', () => {
  const { unmount } = render(<Counted />);
  expect(framesIn(900).frames).toBeGreaterThan(50);
  framesIn(500);
  const { frames, looks } = framesIn(2000);
  expect(frames).toBeGreaterThan(7);
  expect(frames).toBeLessThan(11);
  expect(looks).toBe(frames);
  window.dispatchEvent(new Event('keydown'));
  expect(framesIn(40).frames).toBeGreaterThanOrEqual(2);
  expect(framesIn(800).frames).toBeGreaterThan(45);
  unmount();
  expect(framesIn(2000).frames).toBe(0);
});

test('what goes on by itself keeps it going, a third as often for those who want little motion', () => {
  const { unmount } = render(<Counted />);
  let isPlaying = true;
  const end = keepFrames(() => isPlaying);
  framesIn(2000);
  expect(framesIn(2000).frames).toBeGreaterThan(115);
  wantLittleMotion(true);
  framesIn(100);
  const { frames, looks } = framesIn(2400);
  expect(frames).toBeGreaterThan(35);
  expect(frames).toBeLessThan(65);
  // Meters look as often as they did: every 24th of all frames.
  expect(looks).toBeGreaterThan(3);
  isPlaying = false;
  framesIn(300);
  expect(framesIn(2000).frames).toBeLessThan(11);
  end();
  unmount();
});
