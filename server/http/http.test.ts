import { rangeOf } from './file-response';
import { refusalOf } from './guard';
import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { log } from '../log';
import { handle, readJson } from './handle';
import { checkOrigin } from './origin';

process.env.ORVID_MAX_JSON_KIB = '1';

const headers = (given: Record<string, string>) => new Headers({ host: 'localhost:4870', ...given });

test.each([
  ['its own page', headers({ origin: 'http://localhost:4870', 'sec-fetch-site': 'same-origin' }), false],
  ['the address bar', headers({ 'sec-fetch-site': 'none' }), false],
  ['a program without a browser', headers({}), false],
  ['by number', headers({ host: '127.0.0.1:4870' }), false],
  ['by the long number', headers({ host: '[::1]:4870' }), false],
  ['a foreign name for this host', headers({ host: 'evil.example:4870' }), true],
  ['no host', new Headers(), true],
  ['another site', headers({ origin: 'http://evil.example' }), true],
  ['another port', headers({ origin: 'http://localhost:1234' }), true],
  ['another site without origin', headers({ 'sec-fetch-site': 'cross-site' }), true],
  ['a sandboxed page', headers({ origin: 'null' }), true],
])('a request from %s', (_, given, isRefused) => {
  expect(checkOrigin(given) !== null).toBe(isRefused);
});

test('a page may be opened by a link from anywhere, but by no foreign name', () => {
  expect(checkOrigin(headers({ 'sec-fetch-site': 'cross-site' }), { isPage: true })).toBeNull();
  expect(checkOrigin(headers({ host: 'evil.example' }), { isPage: true })).toContain('evil.example');
});

const request = (body: string, given: Record<string, string> = {}) =>
  new Request('http://localhost:4870/api/x', { method: 'POST', body, headers: { host: 'localhost:4870', ...given } });
const schema = z.strictObject({ title: z.string().max(5) });
const answer = (work: (request: Request) => Promise<object | void>) => (request: Request) =>
  handle<object>(work)(request, { params: Promise.resolve({}) });
const echo = answer((request) => readJson(request, schema));

test('a good body comes through', async () => {
  const response = await echo(request('{"title":"One"}'));
  expect([response.status, await response.json()]).toEqual([200, { title: 'One' }]);
  expect(response.headers.get('cache-control')).toBe('no-store');
});

test.each([
  ['no json', 400, 'not JSON'],
  ['{"title":"too long"}', 400, 'title'],
  ['{"title":"x","more":1}', 400, 'more'],
  [`{"title":"${'x'.repeat(2000)}"}`, 413, '1 KiB'],
])('the body %s is refused', async (body, status, message) => {
  const response = await echo(request(body));
  expect(response.status).toBe(status);
  expect((await response.json()).error.message).toContain(message);
});

test('a cross-site request never reaches the work', async () => {
  const work = jest.fn(async () => ({}));
  const response = await answer(work)(request('{}', { origin: 'http://evil.example' }));
  expect([response.status, work.mock.calls.length]).toEqual([403, 0]);
});

test('a known error is told as it is; an unknown one says nothing of the inside', async () => {
  const known = await answer(async () => Promise.reject(new OrvidError('not-found', 'No such song.', 'All is kept.')))(
    request('{}'),
  );
  expect([known.status, await known.json()]).toEqual([
    404,
    { error: { code: 'not-found', message: 'No such song.', kept: 'All is kept.' } },
  ]);
  const unknown = await answer(async () => Promise.reject(new Error('secret path')))(request('{}'));
  expect(unknown.status).toBe(500);
  expect(JSON.stringify(await unknown.json())).not.toContain('secret');
});

test('of a request that nobody waits for any more nothing is logged, whatever its connection calls that; of one that fails it is', async () => {
  const logged = jest.spyOn(log, 'error').mockImplementation(() => undefined);
  const left = async (reason: Error, thrown: Error) => {
    const leaver = new AbortController();
    const asked = new Request('http://localhost:4870/api/x', {
      headers: { host: 'localhost:4870' },
      signal: leaver.signal,
    });
    const answered = answer(() => {
      leaver.abort(reason);
      return Promise.reject(thrown);
    })(asked);
    return (await answered).status;
  };
  const reason = Object.assign(new Error(), { name: 'ResponseAborted' });
  expect(await left(reason, reason)).toBe(499);
  expect(await left(reason, new DOMException('gone', 'AbortError'))).toBe(499);
  expect(logged).not.toHaveBeenCalled();
  expect(await left(reason, new OrvidError('disk-failing', 'It fails.'))).toBe(503);
  expect(logged).toHaveBeenCalled();
  logged.mockRestore();
});

test.each([
  ['GET', '/songs/x?y=%ff', null],
  ['TRACE', '/songs', 405],
  ['PROPFIND', '/api/songs', 405],
  ['GET', '/api/songs/%ff', 400],
  ['GET', '/songs/%E0%A4%A', 400],
  ['GET', '/songs/%C3%BC', null],
])('%s %s is refused with %s before the framework sees it', (method, url, status) =>
  expect(refusalOf({ method, url })?.status ?? null).toBe(status),
);

test.each([
  [null, null],
  ['bytes=0-9', { start: 0, end: 9 }],
  ['bytes=90-', { start: 90, end: 99 }],
  ['bytes=-10', { start: 90, end: 99 }],
  ['bytes=-1000', { start: 0, end: 99 }],
  ['bytes=50-1000', { start: 50, end: 99 }],
  ['bytes=100-', 'unsatisfiable'],
  ['bytes=9-5', 'unsatisfiable'],
  ['bytes=-0', 'unsatisfiable'],
  ['bytes=-', null],
  ['bytes=0-1,5-6', null],
  ['lines=1-2', null],
])('of 100 bytes %s asks for %j (RFC 9110, 14.1.2)', (header, range) => expect(rangeOf(header, 100)).toEqual(range));

test('an upload that is refused takes its connection with it; other requests keep theirs', async () => {
  const refuse = handle(() => Promise.reject(new OrvidError('disk-full', 'no room')));
  const answerTo = (type: string) =>
    refuse(
      new Request('http://localhost:4870/', {
        method: 'POST',
        headers: { host: 'localhost:4870', 'content-type': type },
      }),
      { params: Promise.resolve({}) },
    );
  const upload = await answerTo('application/octet-stream');
  expect([upload.status, upload.headers.get('connection')]).toEqual([507, 'close']);
  expect((await answerTo('application/json')).headers.get('connection')).toBeNull();
});
