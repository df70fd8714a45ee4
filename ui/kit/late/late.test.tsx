/** @jest-environment jsdom */
import { act, render, screen } from '@testing-library/react';
import type { ComponentType } from 'react';
import { AtRest, late, latePanel } from './late';

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

const Panel = () => <p>Suspects</p>;
const pass = (milliseconds: number) => act(() => jest.advanceTimersByTimeAsync(milliseconds));

/** A script that can be had only as long as the server is there. */
function scriptOf(server: { isGone: boolean }) {
  return jest.fn<Promise<ComponentType>, []>(() =>
    server.isGone ? Promise.reject(new Error('no answer')) : Promise.resolve(Panel),
  );
}

test('a panel comes when it is shown, once however often it is shown', async () => {
  const load = scriptOf({ isGone: false });
  const Late = latePanel(load);
  const { unmount } = render(<Late />);
  expect(screen.getByRole('status').textContent).toBe('Coming …');
  await pass(0);
  expect(screen.getByText('Suspects')).toBeTruthy();
  unmount();
  render(<Late />);
  expect(screen.getByText('Suspects')).toBeTruthy();
  expect(load).toHaveBeenCalledTimes(1);
});

test('while the server is gone a panel says so, and comes when it is back', async () => {
  const server = { isGone: true };
  const load = scriptOf(server);
  const Late = latePanel(load);
  render(<Late />);
  await pass(13_000);
  expect(load).toHaveBeenCalledTimes(3);
  expect(screen.getByRole('status').textContent).toMatch(/server does not answer/);
  server.isGone = false;
  await pass(2000);
  expect(screen.getByText('Suspects')).toBeTruthy();
});

test('one that is no longer shown is not asked for again and again', async () => {
  const load = scriptOf({ isGone: true });
  const Late = late(load);
  const { unmount } = render(<Late />);
  await pass(3000);
  unmount();
  const asked = load.mock.calls.length;
  await pass(60_000);
  expect(load).toHaveBeenCalledTimes(asked);
});

test('when the page is at rest all come, one that fails is tried again and keeps no other from it, and the server may go then', async () => {
  const server = { isGone: false };
  const refused = { isGone: true };
  const Refused = late(scriptOf(refused));
  const Late = latePanel(scriptOf(server));
  const { unmount } = render(
    <AtRest>
      <p>Sheet</p>
    </AtRest>,
  );
  expect(screen.queryByText('Sheet')).toBeNull();
  await pass(500);
  expect(screen.getByText('Sheet')).toBeTruthy();
  server.isGone = true;
  render(<Late />);
  expect(screen.getAllByText('Suspects')).toHaveLength(1);
  refused.isGone = false;
  await pass(2000);
  refused.isGone = true;
  render(<Refused />);
  expect(screen.getAllByText('Suspects')).toHaveLength(2);
  unmount();
});

test('when the song is left what could not be brought is let be', async () => {
  const load = scriptOf({ isGone: true });
  late(load);
  const { unmount } = render(
    <AtRest>
      <p>Sheet</p>
    </AtRest>,
  );
  await pass(3000);
  unmount();
  const asked = load.mock.calls.length;
  expect(asked).toBeGreaterThan(1);
  await pass(60_000);
  expect(load).toHaveBeenCalledTimes(asked);
});
