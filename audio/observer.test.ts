import { PAGE_FRAMES, packSamples } from '@/core/engine';
import { newTrack } from '@/core/song';
import { ObservedRecordings } from './observer';

const realFetch = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = realFetch;
});

const RATE = 48000;
const PAGES = 12;
const track = (audioId: string) =>
  newTrack({ audioId, channels: 1, lengthFrames: PAGES * PAGE_FRAMES }, { id: audioId, name: audioId, ink: 0 });

test('pages of a stretch are fetched once; of what is not looked at any more nothing is kept', async () => {
  const asked: string[] = [];
  globalThis.fetch = (url) => {
    const pages = (url as string).split('/').pop()!.split(',');
    asked.push(...pages);
    const answer = pages.map(() => packSamples(new Float32Array(PAGE_FRAMES).fill(0.25), 32)!);
    return Promise.resolve(new Response(Buffer.concat(answer)));
  };
  const recordings = new ObservedRecordings();
  const held = (audioId: string) =>
    Array.from({ length: PAGES }, (_, page) => page).filter((page) =>
      recordings.of({ audioId })?.has(page * PAGE_FRAMES, 1),
    );
  const range = (from: number, to: number) => ({ startFrame: from * PAGE_FRAMES, endFrame: to * PAGE_FRAMES });
  await recordings.bring([track('a'), track('b')], range(0, 4), RATE);
  expect([held('a'), held('b')]).toEqual([
    [0, 1, 2, 3],
    [0, 1, 2, 3],
  ]);
  expect(asked).toHaveLength(8);

  // What is rendered begins up to four seconds earlier.
  const early = Math.floor((7 * PAGE_FRAMES - 4 * RATE) / PAGE_FRAMES);
  await recordings.bring([track('a')], range(7, 10), RATE);
  expect(held('a')).toEqual(Array.from({ length: 10 - early }, (_, n) => early + n));
  expect(recordings.of({ audioId: 'b' })).toBeUndefined();

  asked.length = 0;
  await recordings.bring([track('a')], range(8, 11), RATE);
  expect(asked).toEqual(['a.80-87']);
});
