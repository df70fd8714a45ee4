import type { Edit } from '@/core/song';
import { ownDataFolder } from '../testing/data-folder';
import { eventStream } from './event-stream';
import { createEmptySong, submitEdits } from './store';

ownDataFolder();

/** An edit of some 14 KB. */
const large = (i: number): Edit => {
  const what = 'x'.repeat(80);
  const move = 'y'.repeat(110);
  const landmarks = Array.from({ length: 60 }, (_, k) => ({
    ...{ id: `l${i}-${k}`, parts: [], lowHz: 100, highHz: 200 },
    what,
    move,
  }));
  return { kind: 'song.set', changes: { landmarks } };
};
const submit = async (songId: string, from: number, count: number) => {
  for (let i = from; i < from + count; i++) await submitEdits(songId, 'w', [{ id: `e${i}`, edit: large(i) }]);
};
/** Reads until a stream ends, or until a revision has come. */
async function revisionsOf(stream: ReadableStream<Uint8Array>, until = Infinity): Promise<number[]> {
  const revisions: number[] = [];
  const decoder = new TextDecoder();
  let text = '';
  for await (const chunk of stream as unknown as AsyncIterable<Uint8Array>) {
    text += decoder.decode(chunk, { stream: true });
    const events = text.split('\n\n');
    text = events.pop()!;
    for (const event of events)
      if (event.startsWith('data: ')) revisions.push((JSON.parse(event.slice(6)) as { revision: number }).revision);
    if (revisions.at(-1)! >= until) break;
  }
  return revisions;
}

test('a window that does not read is let go of with what waits for it, a megabyte at most; it comes again and misses nothing', async () => {
  const { id } = await createEmptySong('Events', 48000);
  const lazy = eventStream(id, 0, new AbortController().signal);
  await submit(id, 0, 120);
  const had = await revisionsOf(lazy);
  expect(had.length).toBeGreaterThan(40);
  expect(had.length).toBeLessThan(90);
  const missed = await revisionsOf(eventStream(id, had.at(-1)!, new AbortController().signal), 120);
  expect([...had, ...missed]).toEqual(Array.from({ length: 120 }, (_, i) => i + 1));
});

test('a window that reads hears of everything as it happens, until it is gone', async () => {
  const { id } = await createEmptySong('Events', 48000);
  const leaving = new AbortController();
  const heard = revisionsOf(eventStream(id, 0, leaving.signal), 150);
  await submit(id, 0, 150);
  expect(await heard).toEqual(Array.from({ length: 150 }, (_, i) => i + 1));
});
