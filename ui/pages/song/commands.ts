import { useTheme } from '../../kit/theme/theme-store';
import { useSide } from '../../places/side/side-store';
import { useCommandStore, type Command } from '../../window/commands/command-store';
import type { Desk } from '../../window/desk/desk';
import type { Go } from '../../work/work';
import { WORKS } from '../../work/works';

/** Every command of the main view with its key: those of all that one does, and those of the page itself. */
export function allCommands(desk: Desk, go: Go): Command[] {
  const theme = (id: 'day' | 'night' | 'system', name: string): Command => ({
    id: `theme-${id}`,
    name,
    inTitleMenu: true,
    run: () => useTheme.getState().choose(id),
  });
  return [
    ...WORKS.flatMap(({ commands }) => commands?.(desk, go) ?? []),
    ...WORKS.flatMap(({ panel }) => panel ?? []).map(({ id, name, digit }) => ({
      id: `side-${id}`,
      name: `Side: ${name}`,
      key: { key: String(digit), alt: true },
      run: () => useSide.of(desk).show(id),
    })),
    {
      id: 'palette',
      name: 'All commands and keys …',
      key: { key: 'k', mod: true },
      inTitleMenu: true,
      run: () => useCommandStore.of(desk).setPalette('commands'),
    },
    theme('day', 'Show it as by day'),
    theme('night', 'Show it as by night'),
    theme('system', 'Day or night as the system has it'),
    { id: 'songs', name: 'To the list of songs', inTitleMenu: true, run: () => go('/songs') },
  ];
}
