/** @jest-environment jsdom */
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { emptySong, newTrack } from '@/core/song';
import type { Suspect } from '@/core/suspects';
import { DeskProvider } from '../../window/desk/desk';
import { noticesOf } from '../../window/notices/notices';
import { request, Unreachable } from '../../window/server/request';
import { useSelection } from '../../window/song/selection';
import { deskWith } from '../../window/testing/open-desk';
import { OfAllTracks } from './all-tracks';

jest.mock('../../window/server/request', () => ({
  ...jest.requireActual<typeof import('../../window/server/request')>('../../window/server/request'),
  request: jest.fn(),
}));

const audioOf = (letter: string) => letter.repeat(64);
const track = (id: string, letter = id) =>
  newTrack({ audioId: audioOf(letter), channels: 1, lengthFrames: 48000 }, { id, name: `Track ${id}`, ink: 0 });
const suspect = (frequencyHz: number, sureness: number): Suspect => ({
  kind: 'resonance',
  frequencyHz,
  lowHz: frequencyHz * 0.95,
  highHz: frequencyHz * 1.05,
  prominenceDb: 9,
  timeShare: 1,
  sureness,
  picture: { frequenciesHz: [], softDb: [], middleDb: [], loudDb: [], isRelative: true },
});

/** Answers of the server, by recording, in the order in which they were asked for. */
function setUp(ids: readonly string[] = ['a', 'b', 'c']) {
  const asked: { letter: string; answer: (found: Suspect[] | Error) => void }[] = [];
  jest.mocked(request).mockImplementation(
    (_, url) =>
      new Promise((resolve, reject) => {
        const letter = /audio\/(.)/.exec(url)![1];
        const answer = (found: Suspect[] | Error) => (found instanceof Error ? reject(found) : resolve(found as never));
        asked.push({ letter, answer });
      }),
  );
  const desk = deskWith({ ...emptySong('Test'), tracks: ids.map((id) => track(id[0], id.at(-1))) });
  const user = userEvent.setup();
  const view = render(
    <DeskProvider value={desk}>
      <OfAllTracks />
    </DeskProvider>,
  );
  return { desk, user, asked, view };
}
const press = (name: string) => screen.getByRole('button', { name });
const lines = () => screen.getAllByRole('listitem').map(({ textContent }) => textContent);

test('recordings are looked through one after the other; what is likely is listed, the surest first, and leads to its track', async () => {
  const { desk, user, asked } = setUp();
  await user.click(press('Look through all tracks'));
  expect(asked.map(({ letter }) => letter)).toEqual(['a']);
  expect(screen.getByRole('status').textContent).toBe('0 of 3 recordings are looked through; now Track a …');
  asked[0].answer([suspect(300, 0.6), suspect(900, 0.3)]);
  await screen.findByText(/now Track b/);
  asked[1].answer([]);
  await screen.findByText(/now Track c/);
  asked[2].answer([suspect(500, 0.9)]);
  await screen.findByText('All 3 recordings are looked through.');
  expect(lines()).toEqual(['Track cResonance, 500 Hz90 %', 'Track aResonance, 300 Hz60 %']);
  await user.click(press('Track c Resonance, 500 Hz'));
  expect(useSelection.of(desk).stripId).toBe('c');
  expect(screen.queryByRole('button', { name: /Look through/ })).toBeNull();
});

test('a recording of two tracks is looked through once, and listed with both', async () => {
  const { user, asked } = setUp(['a', 'b as a']);
  await user.click(press('Look through all tracks'));
  asked[0].answer([suspect(500, 0.9)]);
  await screen.findByText('All 2 recordings are looked through.');
  expect(asked).toHaveLength(1);
  expect(lines()).toEqual(['Track aResonance, 500 Hz90 %', 'Track bResonance, 500 Hz90 %']);
});

test('it is stopped after what is looked at, and goes on from there; what fails is named, tried again, and holds nothing up', async () => {
  const { user, asked } = setUp();
  await user.click(press('Look through all tracks'));
  asked[0].answer(new Error('It is damaged.'));
  await screen.findByText(/now Track b/);
  await user.click(press('Stop after this one'));
  asked[1].answer([]);
  await screen.findByText('1 of 3 recordings are looked through.');
  expect(asked).toHaveLength(2);
  expect(screen.getByRole('alert').textContent).toBe('Not looked through: Track a.');
  await user.click(press('Look through all tracks'));
  expect(asked.map(({ letter }) => letter)).toEqual(['a', 'b', 'a']);
  asked[2].answer([]);
  await screen.findByText(/now Track c/);
  asked[3].answer([]);
  await screen.findByText('All 3 recordings are looked through. Nothing in them is likely to be wrong.');
});

test('where the server is gone it ends and says so; where the song is left nothing more is asked', async () => {
  const { desk, user, asked } = setUp();
  await user.click(press('Look through all tracks'));
  asked[0].answer(new Unreachable());
  await screen.findByText('0 of 3 recordings are looked through.');
  const [said] = noticesOf(desk).visibleToasts;
  expect(said.content.text).toContain('The server cannot be reached');
  await user.click(press('Look through all tracks'));
  desk.end();
  asked[1].answer([]);
  await Promise.resolve();
  expect(asked).toHaveLength(2);
});
