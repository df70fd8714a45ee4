import { PLACES } from '@/core/elsewhere';
import type { Work } from '../work';
import { goElsewhere, nextPlace, toggleElsewhere } from './elsewhere-store';

/** The mix as it is heard elsewhere: for the ear only. */
export const elsewhereWork: Work = {
  commands: (desk) => [
    {
      id: 'elsewhere',
      name: 'Hear the mix elsewhere, or here again',
      also: ['phone', 'car', 'speaker', 'headphones', 'translation'],
      key: { key: 'h' },
      duringDrag: true,
      run: () => toggleElsewhere(desk),
    },
    {
      id: 'elsewhere-next',
      name: 'Hear the mix in the next place',
      key: { key: 'h', shift: true },
      duringDrag: true,
      run: () => nextPlace(desk),
    },
    ...PLACES.map(({ id, name }) => ({
      id: `elsewhere-${id}`,
      name: `Hear the mix elsewhere: ${name}`,
      run: () => goElsewhere(desk, id),
    })),
  ],
};
