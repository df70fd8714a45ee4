/** @jest-environment jsdom */
import { browserStorage, remember, remembered } from './browser-storage';

const refusal = new DOMException('no room', 'QuotaExceededError');
afterEach(() => {
  jest.restoreAllMocks();
  window.localStorage.clear();
});

test('a choice is kept in the browser, and forgotten', () => {
  remember('orvid-choice', 'night');
  expect(window.localStorage.getItem('orvid-choice')).toBe('night');
  expect(remembered('orvid-choice')).toBe('night');
  remember('orvid-choice', null);
  expect(remembered('orvid-choice')).toBeNull();
  expect(browserStorage().length).toBe(0);
});

test('where the browser has no room, a choice holds for this window', () => {
  remember('orvid-choice', 'day');
  const full = jest.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
    throw refusal;
  });
  remember('orvid-choice', 'night');
  expect(remembered('orvid-choice')).toBe('night');
  full.mockRestore();
  remember('orvid-choice', 'day');
  expect(remembered('orvid-choice')).toBe('day');
  remember('orvid-choice', null);
  expect(remembered('orvid-choice')).toBeNull();
});

test('where the browser blocks its storage nothing is kept, and what must be kept is refused', () => {
  jest.spyOn(window, 'localStorage', 'get').mockImplementation(() => {
    throw new DOMException('denied', 'SecurityError');
  });
  expect(browserStorage().length).toBe(0);
  expect(() => browserStorage().setItem('orvid-outbox', 'edits')).toThrow('keeps nothing');
  remember('orvid-choice', 'night');
  expect(remembered('orvid-choice')).toBe('night');
  remember('orvid-choice', null);
  expect(remembered('orvid-choice')).toBeNull();
});
