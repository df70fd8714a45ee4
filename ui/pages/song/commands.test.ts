import { emptySong } from '@/core/song';
import { keyName } from '../../window/commands/keys';
import { deskWith } from '../../window/testing/open-desk';
import { WORKS } from '../../work/works';
import { allCommands } from './commands';

test('no key means two things, pressed or held', () => {
  const desk = deskWith(emptySong('Keys'));
  const pressed = allCommands(desk, () => undefined).flatMap(({ key, otherKey }) =>
    [key, otherKey].flatMap((own) => (own ? [keyName(own)] : [])),
  );
  const held = WORKS.flatMap(({ hold }) => (hold ? [keyName({ key: hold(desk).key })] : []));
  const all = [...pressed, ...held];
  expect(all.filter((name, i) => all.indexOf(name) !== i)).toEqual([]);
  expect(held.length).toBeGreaterThan(3);
});
