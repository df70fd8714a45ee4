import { OrvidError } from '@/core/errors';
import { told } from './told';

const request = (signal = new AbortController().signal) => new Request('http://localhost/api/long', { signal });

test('an answer says how far it is, and what comes of it', async () => {
  const answer = told(request(), async (_, report) => {
    report('measuring', 0.25);
    await Promise.resolve();
    report('measuring', 1);
    return { figures: 3 };
  });
  expect(await answer.text()).toBe('{"progress":0.25}\n{"progress":1}\n{"value":{"figures":3}}\n');
});

test('why nothing comes of it is said; what only the log can tell is there', async () => {
  const damaged = new OrvidError('damaged', 'Cello: its recording is damaged from 1:02.', 'Nothing was measured.');
  expect(JSON.parse(await told(request(), () => Promise.reject(damaged)).text())).toEqual({ error: damaged.toJSON() });
  const unforeseen = await told(request(), () => Promise.reject(new TypeError('x is no function'))).text();
  expect(unforeseen).not.toContain('function');
  expect(JSON.parse(unforeseen)).toMatchObject({ error: { code: 'internal' } });
});

test('who is gone before the work begins has it ended as well', () => {
  const gone = new AbortController();
  gone.abort();
  let isOver: boolean | undefined;
  told(request(gone.signal), (signal) => {
    isOver = signal.aborted;
    return Promise.resolve(3);
  });
  expect(isOver).toBe(true);
});

test.each(['the request', 'its reader'])('where %s is gone the work ends', async (who) => {
  const gone = new AbortController();
  let ended: AbortSignal | undefined;
  const answer = told(request(gone.signal), (signal) => {
    ended = signal;
    return new Promise((_, reject) => signal.addEventListener('abort', () => reject(signal.reason as Error)));
  });
  const reader = answer.body!.getReader();
  if (who === 'the request') gone.abort();
  else await reader.cancel();
  expect(ended!.aborted).toBe(true);
});
