import { wholeRows } from '@/core/measure';
import { emptySong } from '@/core/song';
import { deskWith } from '../testing/open-desk';
import { levelsSettled, useAnalyses } from './analyses';

test('levels are waited for until each recording has its own, or is known to have none', async () => {
  const desk = deskWith(emptySong('Settled'));
  const { setState } = useAnalyses.api(desk);
  let isSettled = false;
  const settled = levelsSettled(desk, ['a', 'b']).then(() => (isSettled = true));
  setState({ levels: { a: [wholeRows(new Uint8Array(1))] } });
  await Promise.resolve();
  expect(isSettled).toBe(false);
  setState({ failed: ['c'] });
  await Promise.resolve();
  expect(isSettled).toBe(false);
  setState({ failed: ['c', 'b'] });
  await settled;
  await levelsSettled(desk, ['a', 'b', 'c']);
  await levelsSettled(desk, []);
});
