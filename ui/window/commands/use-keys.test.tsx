/** @jest-environment jsdom */
import { act, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useLayoutEffect } from 'react';
import { ValueField } from '../../kit/controls/value-field';
import { followDrag } from '../../kit/gestures/drag';
import { Desk, DeskProvider } from '../desk/desk';
import { useCommandStore, type Command } from './command-store';
import { useKeys } from './use-keys';

function Page() {
  useKeys();
  return (
    <>
      <ValueField label="Level" shown="0 dB" parse={Number} example="" onCommit={() => undefined} />
      <input aria-label="Plain" />
      <button type="button">Mute</button>
      <div role="slider" tabIndex={0} aria-label="Handle" aria-valuenow={1} onKeyDown={handleKey} />
    </>
  );
}
const handleKey = (event: React.KeyboardEvent) => {
  if (event.key === 'ArrowRight') event.stopPropagation();
};

function setUp() {
  const desk = new Desk('x');
  const ran: string[] = [];
  const command = (id: string, key: Command['key'], more: Partial<Command> = {}): Command => ({
    id,
    name: id,
    key,
    run: () => ran.push(id),
    ...more,
  });
  useCommandStore.api(desk).setState({
    commands: [
      command('play', { key: ' ' }, { duringDrag: true }),
      command('mute', { key: 'm' }),
      command('all-tracks', { key: 'a', mod: true }),
      command('undo', { key: 'z', mod: true }),
      command('redo', { key: 'z', mod: true, shift: true }, { otherKey: { key: 'y', mod: true } }),
      command('palette', { key: 'k', mod: true }),
      command('track-below', { key: 'ArrowDown' }),
    ],
    holds: [{ key: 'b', begin: () => ran.push('before'), end: () => ran.push('after'), duringDrag: true }],
  });
  render(
    <DeskProvider value={desk}>
      <Page />
    </DeskProvider>,
  );
  return { ran, user: userEvent.setup() };
}
const by = (role: string, name: string) => screen.getByRole(role, { name });

test('keys are heard as soon as the view is there, before anything is painted', () => {
  const desk = new Desk('x');
  const ran: string[] = [];
  useCommandStore
    .api(desk)
    .setState({ commands: [{ id: 'mute', name: 'mute', key: { key: 'm' }, run: () => ran.push('mute') }] });
  function Hasty() {
    useLayoutEffect(() => void window.dispatchEvent(new KeyboardEvent('keydown', { key: 'm' })), []);
    return <Page />;
  }
  render(
    <DeskProvider value={desk}>
      <Hasty />
    </DeskProvider>,
  );
  expect(ran).toEqual(['mute']);
});

test('keys run commands where nothing else wants them', async () => {
  const { ran, user } = setUp();
  await user.keyboard('m{ArrowDown} {Control>}k{/Control}');
  expect(ran).toEqual(['mute', 'track-below', 'play', 'palette']);
});

test('letters and the chords of text never act in fields; what a field has no use for does', async () => {
  const { ran, user } = setUp();
  await user.click(by('textbox', 'Plain'));
  await user.keyboard('mm {Control>}a{/Control}{ArrowDown}b');
  expect(ran).toEqual([]);
  expect(by('textbox', 'Plain')).toHaveProperty('value', 'b');
  await user.keyboard('{Control>}k{/Control}');
  expect(ran).toEqual(['palette']);
});

test('keys act where the keyboard is of another alphabet, and text keeps its chords there', () => {
  const { ran } = setUp();
  const press = (key: string, code: string, held: KeyboardEventInit = {}) =>
    document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key, code, bubbles: true, ...held }));
  press('ь', 'KeyM');
  press('я', 'KeyZ', { ctrlKey: true });
  press('и', 'KeyB');
  window.dispatchEvent(new KeyboardEvent('keyup', { key: 'и', code: 'KeyB' }));
  expect(ran).toEqual(['mute', 'undo', 'before', 'after']);
  act(() => by('textbox', 'Plain').focus());
  press('ь', 'KeyM');
  press('ф', 'KeyA', { ctrlKey: true });
  expect(ran).toHaveLength(4);
});

test('undo belongs to a field while something is typed in it; a figure at rest has no use for a space', async () => {
  const { ran, user } = setUp();
  await user.click(by('textbox', 'Level'));
  await user.keyboard(' ');
  expect(ran).toEqual(['play']);
  await user.keyboard('3{Control>}z{/Control}');
  expect(ran).toEqual(['play']);
  await user.keyboard('{Control>}y{/Control}{Escape}{Control>}zy{/Control}');
  expect(ran).toEqual(['play', 'undo', 'redo']);
});

test('Space after a click plays; for those who came by Tab it presses the button', async () => {
  const { ran, user } = setUp();
  let presses = 0;
  by('button', 'Mute').addEventListener('click', () => presses++);
  await user.click(by('button', 'Mute'));
  await user.keyboard(' ');
  expect([ran, presses]).toEqual([['play'], 1]);
  await user.tab({ shift: true });
  await user.tab();
  await user.keyboard(' ');
  expect(presses).toBe(2);
});

test('a handle has its arrows for itself, also those that mean nothing to it', async () => {
  const { ran, user } = setUp();
  act(() => by('slider', 'Handle').focus());
  await user.keyboard('{ArrowRight}{ArrowDown}m');
  expect(ran).toEqual(['mute']);
});

test('an open sheet keeps all keys', async () => {
  const { ran, user } = setUp();
  const sheet = document.body.appendChild(document.createElement('div'));
  sheet.setAttribute('role', 'dialog');
  await user.keyboard('m ');
  sheet.remove();
  expect(ran).toEqual([]);
});

test('in the middle of a drag only what leaves it alone is done, and arrows and Delete reach nothing', async () => {
  const { ran, user } = setUp();
  const handle = by('slider', 'Handle');
  const heard: string[] = [];
  handle.addEventListener('keydown', (event) => heard.push(event.key));
  act(() => handle.focus());
  const press = { pointerId: 1, clientX: 0, clientY: 0 } as PointerEvent;
  const drag = followDrag(press, { onMove: () => undefined, onEnd: () => undefined, onCancel: () => undefined });
  await user.keyboard('m{Control>}z{/Control}{ArrowRight}{Delete}[[b ');
  drag.end();
  expect(ran).toEqual(['before', 'after', 'play']);
  expect(heard).not.toContain('Delete');
  expect(heard).not.toContain('ArrowRight');
});
