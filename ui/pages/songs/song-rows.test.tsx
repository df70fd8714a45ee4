/** @jest-environment jsdom */
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { SongSummary } from '@/core/song';
import { SongRows } from './song-rows';

const song = (id: number, title = `Song ${id}`): SongSummary => ({
  id: String(id),
  title,
  tracks: id,
  lengthSeconds: 60,
  changedAt: '2026-01-01T12:00:00Z',
  problem: null,
});
const many = [...Array.from({ length: 200 }, (_, i) => song(i)), song(200, 'Jökull in the Morning')];
const show = (songs: SongSummary[]) => render(<SongRows songs={songs} onAction={() => undefined} />);
const titles = () => screen.queryAllByRole('link').map(({ textContent }) => textContent);

test('of few songs all are shown', () => {
  show(many.slice(0, 40));
  expect(titles()).toHaveLength(40);
  expect(screen.queryByRole('searchbox')).toBeNull();
  expect(screen.queryByRole('button', { name: 'Show all' })).toBeNull();
});

test('of many songs the last changed are shown, until all are asked for', async () => {
  show(many);
  expect(titles()).toEqual(many.slice(0, 40).map(({ title }) => title));
  await userEvent.click(screen.getByRole('button', { name: 'Show all' }));
  expect(titles()).toHaveLength(201);
});

test('a song is found by a part of its title, however it is written; Escape shows all again', async () => {
  show(many);
  const find = screen.getByRole('searchbox', { name: 'Find a song by its title' });
  await userEvent.type(find, ' jokull');
  expect(titles()).toEqual(['Jökull in the Morning']);
  await userEvent.clear(find);
  await userEvent.type(find, 'SONG 19');
  expect(titles()).toHaveLength(11);
  await userEvent.type(find, 'x');
  expect(titles()).toEqual([]);
  expect(screen.getByText('No title has “SONG 19x” in it.')).toBeTruthy();
  await userEvent.keyboard('{Escape}');
  expect(titles()).toHaveLength(40);
});

test('what is sought can be taken back when there are fewer songs meanwhile', async () => {
  const { rerender } = show(many.slice(0, 41));
  await userEvent.type(screen.getByRole('searchbox'), 'Song 7');
  rerender(<SongRows songs={many.slice(0, 40)} onAction={() => undefined} />);
  expect(titles()).toEqual(['Song 7']);
  await userEvent.clear(screen.getByRole('searchbox'));
  expect(titles()).toHaveLength(40);
});

test('a song that cannot be opened says why', () => {
  show([{ ...song(3), problem: 'Its document is damaged.' }]);
  expect(screen.getByTitle('Its document is damaged.')).toBeTruthy();
});
