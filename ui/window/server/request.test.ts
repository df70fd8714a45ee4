import { requestTold, Unreachable } from './request';

/** An answer that comes in pieces. */
function answerOf(pieces: readonly string[], status = 200): Response {
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      for (const piece of pieces) controller.enqueue(encoder.encode(piece));
      controller.close();
    },
  });
  return new Response(body, { status });
}

async function told(answer: Response | Error) {
  const heard: number[] = [];
  globalThis.fetch = () => (answer instanceof Error ? Promise.reject(answer) : Promise.resolve(answer));
  const work = requestTold<string>('/api/long', {}, (progress) => heard.push(progress), new AbortController().signal);
  return { heard, result: await work.catch((thrown: Error) => thrown) };
}

test('what takes a while says how far it is, in pieces of any size', async () => {
  const lines = ['{"progress":0.25}', '{"progress":0.5}', '{"value":"dàone"}'].map((line) => `${line}\n`).join('');
  expect(await told(answerOf([lines]))).toEqual({ heard: [0.25, 0.5], result: 'dàone' });
  expect(await told(answerOf(lines.split('')))).toEqual({ heard: [0.25, 0.5], result: 'dàone' });
});

test('why it did not come about is told, and that the server went before it was done', async () => {
  const damaged = {
    code: 'damaged',
    message: 'Cello: its recording is damaged from 1:02.',
    kept: 'Nothing was changed.',
  };
  const failed = await told(answerOf(['{"progress":0.5}\n', `${JSON.stringify({ error: damaged })}\n`]));
  expect(failed).toMatchObject({ heard: [0.5], result: damaged });
  const refused = await told(answerOf([JSON.stringify({ error: { ...damaged, code: 'not-found' } })], 404));
  expect(refused.result).toMatchObject({ code: 'not-found' });
  expect((await told(answerOf(['{"progress":0.5}\n', '{"val']))).result).toBeInstanceOf(Unreachable);
  expect((await told(new TypeError('gone'))).result).toBeInstanceOf(Unreachable);
});
