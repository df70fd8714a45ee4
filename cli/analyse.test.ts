import type { Suspect } from '@/core/suspects';
import { resonancesAmong } from './analyse';

test('modes of a room that would be named without their family are among the resonances, the surest first', () => {
  const place = { lowHz: 40, highHz: 200, prominenceDb: 9, timeShare: 1 };
  const picture = { frequenciesHz: [], softDb: [], middleDb: [], loudDb: [], isRelative: true };
  const suspects: Suspect[] = [
    { ...place, kind: 'hum', frequencyHz: 50, sureness: 0.99, picture },
    {
      ...place,
      kind: 'modes',
      frequencyHz: 90,
      sureness: 0.9,
      picture,
      modes: [
        { frequencyHz: 52, q: 12, gainDb: 8, sureness: 0.05 },
        { frequencyHz: 104, q: 14, gainDb: 11, sureness: 0.7 },
      ],
    },
    { ...place, kind: 'resonance', frequencyHz: 1000, lowHz: 950, highHz: 1050, sureness: 0.4, picture },
  ];
  expect(resonancesAmong(suspects)).toEqual([
    { frequencyHz: 104, q: 14, prominenceDb: 11, timeShare: 1, sureness: 0.7 },
    { frequencyHz: 1000, q: 10, prominenceDb: 9, timeShare: 1, sureness: 0.4 },
  ]);
});
