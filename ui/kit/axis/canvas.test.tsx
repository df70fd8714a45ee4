/** @jest-environment jsdom */
import { act, render } from '@testing-library/react';
import { useRef } from 'react';
import { useEyesOff } from '../eyes/eyes-off';
import { useCanvas } from './canvas';

const drawn: string[] = [];
const draw = () => drawn.push('sound');
const drawAlways = () => drawn.push('always');

function Picture() {
  const canvas = useRef<HTMLCanvasElement>(null);
  useCanvas(canvas, 100, 50, draw, drawAlways);
  return <canvas ref={canvas} />;
}

beforeAll(() => {
  HTMLCanvasElement.prototype.getContext = (() => ({
    setTransform: () => {},
    clearRect: () => {},
  })) as unknown as HTMLCanvasElement['getContext'];
  window.IntersectionObserver = class {
    observe() {}
    disconnect() {}
  } as unknown as typeof IntersectionObserver;
});
const fonts = new EventTarget();
beforeEach(() => {
  Object.defineProperty(document, 'fonts', { value: fonts, configurable: true });
  drawn.length = 0;
  jest.useFakeTimers();
});
afterEach(() => {
  act(() => useEyesOff.setState({ isOff: false }));
  jest.useRealTimers();
});

test('with the eyes off the sound is not drawn; what is no picture of it is, over it otherwise', () => {
  render(<Picture />);
  jest.advanceTimersByTime(20);
  expect(drawn).toEqual(['sound', 'always']);
  act(() => useEyesOff.setState({ isOff: true }));
  jest.advanceTimersByTime(20);
  expect(drawn).toEqual(['sound', 'always', 'always']);
});

test('when a typeface has come, words are drawn anew with it', () => {
  const { unmount } = render(<Picture />);
  jest.advanceTimersByTime(20);
  drawn.length = 0;
  fonts.dispatchEvent(new Event('loadingdone'));
  jest.advanceTimersByTime(20);
  expect(drawn).toEqual(['sound', 'always']);
  unmount();
  fonts.dispatchEvent(new Event('loadingdone'));
  jest.advanceTimersByTime(20);
  expect(drawn).toEqual(['sound', 'always']);
});
