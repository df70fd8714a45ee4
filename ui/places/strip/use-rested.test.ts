/** @jest-environment jsdom */
import { act, renderHook } from '@testing-library/react';
import type { Span } from '../../window/view/song-view';
import type { StripView } from './strip-view';
import { useRested } from './use-rested';

const listeners = new Set<() => void>();
let shown: Span = { from: 0, to: 60 };
const view: StripView = {
  span: () => shown,
  shown: () => shown,
  perSecond: () => 10,
  secondsAt: (x) => x,
  onChange: (listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
};
/** The wheel shows another stretch. */
const turnTo = (from: number) =>
  act(() => {
    shown = { from, to: from + 10 };
    for (const listener of listeners) listener();
  });

const strip = document.createElement('div');
const box = { current: strip };
const rested = () => renderHook(() => useRested(box, view));
/** The pointer goes on over the strip. */
const move = (figures: { movementX: number; buttons: number }) =>
  act(() => void strip.dispatchEvent(Object.assign(new Event('pointermove'), { movementY: 0, ...figures })));

beforeEach(() => {
  shown = { from: 0, to: 60 };
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

test('what one takes hold of stays where it was while the wheel turns, and follows when it rests', () => {
  const { result, unmount } = rested();
  expect(result.current).toEqual({ shown: { from: 0, to: 60 }, isMoving: false });
  for (const from of [10, 12, 14]) {
    turnTo(from);
    act(() => jest.advanceTimersByTime(100));
    expect(result.current).toEqual({ shown: { from: 0, to: 60 }, isMoving: true });
  }
  act(() => jest.advanceTimersByTime(30));
  expect(result.current).toEqual({ shown: { from: 14, to: 24 }, isMoving: false });
  unmount();
  expect(listeners.size).toBe(0);
});

test('it follows at once when the pointer goes on; what the browser makes up, and fingers that zoom, are no such move', () => {
  const { result } = rested();
  turnTo(20);
  move({ movementX: 0, buttons: 0 });
  move({ movementX: 3, buttons: 1 });
  expect(result.current.isMoving).toBe(true);
  move({ movementX: 3, buttons: 0 });
  expect(result.current).toEqual({ shown: { from: 20, to: 30 }, isMoving: false });
});
