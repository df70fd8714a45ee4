/** @jest-environment jsdom */
import { followDrag } from '../gestures/drag';
import { drawInFrame, forgetInFrame, takeInFrame } from './pictures';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());
const nextFrame = () => jest.advanceTimersByTime(17);

test('a picture is drawn once in the next frame, however often it was asked for, and not when it is gone', () => {
  const [some, other] = [jest.fn(), jest.fn()];
  for (let i = 0; i < 3; i++) drawInFrame(some);
  drawInFrame(other);
  forgetInFrame(other);
  expect(some).not.toHaveBeenCalled();
  nextFrame();
  nextFrame();
  expect([some.mock.calls.length, other.mock.calls.length]).toEqual([1, 0]);
});

test('what is taken in a frame is drawn in it, once, whoever asked first; what a drawing asks for comes with the next', () => {
  const done: string[] = [];
  const again = () => done.push('again');
  const draw = () => {
    done.push('drawn');
    drawInFrame(again);
  };
  const take = () => {
    done.push('taken');
    drawInFrame(draw);
  };
  drawInFrame(draw);
  takeInFrame(take);
  nextFrame();
  expect(done).toEqual(['taken', 'drawn']);
  nextFrame();
  nextFrame();
  expect(done).toEqual(['taken', 'drawn', 'again']);
});

test('a picture that cannot be drawn is said, and keeps no other from it', () => {
  const said = jest.fn();
  window.reportError = said;
  const other = jest.fn();
  const wrong = new Error('no room');
  drawInFrame(() => {
    throw wrong;
  });
  drawInFrame(other);
  nextFrame();
  expect(other).toHaveBeenCalledTimes(1);
  expect(said).toHaveBeenCalledWith(wrong);
});

test('a move that a frame takes is drawn in that very frame', () => {
  const drawn: number[] = [];
  let at = 0;
  const draw = () => drawn.push(at);
  const press = Object.assign(new Event('pointerdown'), { pointerId: 1, clientX: 0, clientY: 0, shiftKey: false });
  const drag = followDrag(press as PointerEvent, {
    onMove: ({ dx }) => {
      at = dx;
      drawInFrame(draw);
    },
    onEnd: () => {},
    onCancel: () => {},
  });
  const move = (clientX: number) =>
    window.dispatchEvent(
      Object.assign(new Event('pointermove'), { pointerId: 1, clientX, clientY: 0, shiftKey: false }),
    );
  // The first of a frame is taken at once, the second waits for the frame; each frame draws the latest, once.
  move(10);
  move(20);
  nextFrame();
  expect(drawn).toEqual([20]);
  move(30);
  drawInFrame(draw);
  nextFrame();
  expect(drawn).toEqual([20, 30]);
  drag.end();
});
