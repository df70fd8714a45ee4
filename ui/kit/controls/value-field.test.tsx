/** @jest-environment jsdom */
import { fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { parseGain, writeGain } from '@/core/formats';
import { Announcer } from './announcer';
import { ValueField, words } from './value-field';

const RANGE = { min: -60, max: 24 };

/** Two tracks, one of them chosen, with its level in a field, as beside the Register. */
function Levels({ isKeyed }: { isKeyed: boolean }) {
  const [chosen, choose] = useState('One');
  const [levels, setLevels] = useState<Record<string, number>>({ One: 0, Two: -6 });
  return (
    <>
      {Object.keys(levels).map((name) => (
        <button key={name} type="button" onPointerDown={() => choose(name)}>
          {name} {levels[name]}
        </button>
      ))}
      <ValueField
        key={isKeyed ? chosen : 'field'}
        label="Level"
        shown={writeGain(levels[chosen])}
        parse={(text) => parseGain(text, RANGE)}
        example="−3, +2.5 dB"
        onCommit={(db) => setLevels((all) => ({ ...all, [chosen]: db }))}
        onStep={(direction) => setLevels((all) => ({ ...all, [chosen]: all[chosen] + direction }))}
      />
    </>
  );
}
const field = () => screen.getByRole('textbox', { name: 'Level' });
const track = (text: string) => screen.getByRole('button', { name: text });

test.each([
  ['that shows the next thing in its place', true],
  ['that stays', false],
])('what is typed and ended by a click on another track goes to the first: a field %s', async (_, isKeyed) => {
  render(<Levels isKeyed={isKeyed} />);
  const user = userEvent.setup();
  await user.click(field());
  await user.keyboard('-3');
  await user.click(track('Two -6'));
  expect(track('One -3')).toBeTruthy();
  expect(track('Two -6')).toBeTruthy();
  expect(field()).toHaveProperty('value', '−6.0 dB');
});

test('Enter keeps, Escape brings back the old value, arrows step it', async () => {
  render(<Levels isKeyed />);
  const user = userEvent.setup();
  await user.click(field());
  await user.keyboard('2.5 dB{Enter}');
  expect(track('One 2.5')).toBeTruthy();
  await user.keyboard('9');
  await user.keyboard('{Escape}');
  expect(field()).toHaveProperty('value', '+2.5 dB');
  await user.keyboard('{ArrowUp}{ArrowUp}{ArrowDown}');
  expect(track('One 3.5')).toBeTruthy();
});

test('what cannot be read stays, marked, with a word why, also when the field is left; nothing is changed', async () => {
  render(<Levels isKeyed={false} />);
  const user = userEvent.setup();
  await user.click(field());
  await user.keyboard('loud');
  await user.tab();
  expect(field()).toHaveProperty('value', 'loud');
  expect(field().getAttribute('aria-invalid')).toBe('true');
  expect(screen.getByRole('alert').textContent).toBe('Write it like −3, +2.5 dB');
  expect(track('One 0')).toBeTruthy();
  await user.click(field());
  await user.keyboard('{Escape}');
  expect(field()).toHaveProperty('value', '0.0 dB');
  expect(screen.queryByText(/Write it like/)).toBeNull();
});

test('what goes too far is brought to the nearest that is possible, which is said until something else is done', async () => {
  render(<Levels isKeyed={false} />);
  const user = userEvent.setup();
  const said = () => screen.queryByText('The nearest that is possible');
  await user.click(field());
  await user.keyboard('99{Enter}');
  expect(field()).toHaveProperty('value', '+24.0 dB');
  expect(track('One 24')).toBeTruthy();
  expect(said()).toBeTruthy();
  await user.keyboard('24{Enter}');
  expect(said()).toBeNull();
  await user.keyboard('-300');
  await user.tab();
  expect(track('One -60')).toBeTruthy();
  expect(said()).toBeTruthy();
  await user.click(track('Two -6'));
  expect(said()).toBeNull();
});

test('what goes too far in a field that is taken away is announced with its name', async () => {
  render(
    <>
      <Levels isKeyed />
      <Announcer />
    </>,
  );
  const user = userEvent.setup();
  await user.click(field());
  await user.keyboard('99');
  await user.click(track('Two -6'));
  expect(track('One 24')).toBeTruthy();
  expect(await screen.findByText('Level: the nearest that is possible')).toBeTruthy();
});

test('the word why makes room once something else is done, and is there again where one points or types', async () => {
  render(<Levels isKeyed={false} />);
  const user = userEvent.setup();
  const isSaid = () => getComputedStyle(screen.getByText(/Write it like/).parentElement!).display !== 'none';
  await user.click(field());
  await user.keyboard('loud');
  await user.click(track('Two -6'));
  expect(isSaid()).toBe(true);
  await user.click(track('One 0'));
  expect(field()).toHaveProperty('value', 'loud');
  expect(isSaid()).toBe(false);
  await user.click(field());
  expect(isSaid()).toBe(true);
});

test('a value that is what it was is not set again', async () => {
  let commits = 0;
  render(<ValueField label="Title" shown="Ferry" parse={(text) => text} example="" onCommit={() => commits++} />);
  const user = userEvent.setup();
  await user.click(screen.getByRole('textbox'));
  await user.keyboard('Ferry');
  await user.tab();
  expect(commits).toBe(0);
});

test('keys that choose characters while they are put together are neither the field’s nor of what it stands in', () => {
  const name = jest.fn();
  const step = jest.fn();
  const around = jest.fn();
  render(
    <div onKeyDown={around}>
      <ValueField label="Name" shown="Cello" parse={words(1)} onCommit={name} onStep={step} example="Cello" />
    </div>,
  );
  const input: HTMLInputElement = screen.getByRole('textbox', { name: 'Name' });
  fireEvent.change(input, { target: { value: 'ちぇろ' } });
  for (const key of ['Enter', 'Escape', 'ArrowDown', 'ArrowRight'])
    fireEvent.keyDown(input, { key, isComposing: true });
  for (const heard of [name, step, around]) expect(heard).not.toHaveBeenCalled();
  expect(input.value).toBe('ちぇろ');
  fireEvent.keyDown(input, { key: 'Enter' });
  expect(name).toHaveBeenCalledWith('ちぇろ');
});
