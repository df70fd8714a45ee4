import { followDrag, type DragMove } from './drag';
import {
  arrowDirection,
  draggedOrder,
  stepDb,
  stepHz,
  stepOrder,
  stepQ,
  stepSize,
  tidyDb,
  tidyHz,
  tidyQ,
} from './steps';

/** What waits for the next frame, of whichever test: there is one clock. */
let frame: (() => void) | null = null;

/** A window and a frame clock that are driven by hand. */
function stage() {
  const target = new EventTarget();
  Object.assign(globalThis, {
    window: target,
    requestAnimationFrame: (callback: () => void) => {
      frame = callback;
      return 1;
    },
    cancelAnimationFrame: () => (frame = null),
  });
  const send = (type: string, fields: object) =>
    target.dispatchEvent(Object.assign(new Event(type, { cancelable: true }), { pointerId: 1, ...fields }));
  const moves: DragMove[] = [];
  const ended: string[] = [];
  const press = { pointerId: 1, clientX: 100, clientY: 100 } as PointerEvent;
  followDrag(press, {
    onMove: (move) => moves.push(move),
    onEnd: () => ended.push('end'),
    onCancel: () => ended.push('cancel'),
  });
  return {
    moves,
    ended,
    move: (clientX: number, clientY: number, rest = {}) => send('pointermove', { clientX, clientY, ...rest }),
    up: (rest = {}) => send('pointerup', rest),
    key: (key: string) => send('keydown', { key }),
    tick: () => {
      const now = frame;
      frame = null;
      now?.();
    },
  };
}

test('moves are taken once a frame, and the last one when it ends', () => {
  const { move, tick, up, moves, ended } = stage();
  move(110, 100);
  move(115, 100);
  move(120, 105);
  // The first of a frame is taken at once, so that it is heard early; the others wait for the next frame.
  expect(moves).toEqual([{ dx: 10, dy: 0, clientX: 110, clientY: 100 }]);
  tick();
  expect(moves[1]).toEqual({ dx: 20, dy: 5, clientX: 120, clientY: 105 });
  move(130, 105);
  up();
  expect(moves).toHaveLength(3);
  expect(moves[2].dx).toBe(30);
  expect(ended).toEqual(['end']);
});

test('with Shift the hand goes a fifth of the way, from where it is', () => {
  const { move, tick, moves } = stage();
  move(120, 100);
  move(170, 100, { shiftKey: true });
  move(180, 100);
  tick();
  expect(moves.at(-1)!.dx).toBe(20 + 10 + 10);
});

test('a press that hardly moves is a click and no drag', () => {
  const { move, tick, up, moves, ended } = stage();
  move(101, 101);
  tick();
  up();
  expect([moves, ended]).toEqual([[], []]);
});

test('Escape takes a drag back, and nothing follows it', () => {
  const { move, tick, key, up, moves, ended } = stage();
  move(150, 100);
  tick();
  key('Escape');
  move(190, 100);
  tick();
  up();
  expect(moves).toHaveLength(1);
  expect(ended).toEqual(['cancel']);
});

test('another finger does not disturb', () => {
  const { move, tick, up, moves, ended } = stage();
  move(150, 100, { pointerId: 2 });
  up({ pointerId: 2 });
  move(110, 100);
  tick();
  expect(moves).toHaveLength(1);
  expect(ended).toEqual([]);
});

test('a pointer that is taken away cancels', () => {
  const { move, tick, ended } = stage();
  move(150, 100);
  tick();
  window.dispatchEvent(Object.assign(new Event('pointercancel'), { pointerId: 1 }));
  expect(ended).toEqual(['cancel']);
});

test('steps of keys: plain, fine, coarse, and within their ranges', () => {
  expect(stepSize({ shiftKey: true, altKey: false })).toBe('fine');
  expect(stepSize({ shiftKey: false, altKey: true })).toBe('coarse');
  expect(stepSize({ shiftKey: false, altKey: false })).toBe('plain');
  expect(stepHz(1000, 1, 'coarse')).toBe(1260);
  expect(stepHz(10, -1, 'coarse')).toBe(10);
  expect(stepDb(0, -1, 'plain', { min: -36, max: 36 })).toBe(-0.5);
  expect(stepDb(35.9, 1, 'coarse', { min: -36, max: 36 })).toBe(36);
  expect(stepQ(1, -1, 'coarse')).toBe(1.5);
  expect(stepQ(100, -1, 'plain')).toBe(100);
});

test('values are tidy: four digits, tenths of a decibel', () => {
  expect(tidyHz(1234.567)).toBe(1235);
  expect(tidyHz(1)).toBe(10);
  expect(tidyDb(1.2345, { min: -2, max: 1 })).toBe(1);
  expect(tidyQ(0.123456)).toBe(0.1235);
});

test('orders step and are dragged within the family', () => {
  expect(stepOrder({ family: 'linkwitz-riley', order: 4 }, 1)).toBe(6);
  expect(stepOrder({ family: 'resonant', order: 8 }, 1)).toBe(8);
  expect(stepOrder({ family: 'butterworth', order: 1 }, -1)).toBe(1);
  expect(draggedOrder({ family: 'butterworth', order: 3 }, -10, 14, 12)).toBe(3);
  expect(draggedOrder({ family: 'butterworth', order: 3 }, -38, 14, 12)).toBe(5);
});

test('arrow keys and their axes', () => {
  expect(arrowDirection({ key: 'ArrowLeft' })).toEqual({ axis: 'x', direction: -1 });
  expect(arrowDirection({ key: 'ArrowUp' })).toEqual({ axis: 'y', direction: 1 });
  expect(arrowDirection({ key: 'a' })).toBeNull();
});
