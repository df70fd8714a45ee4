/** @jest-environment jsdom */
import { emptySong } from '@/core/song';
import { useJobs, type JobView } from '../server/jobs-store';
import { request } from '../server/request';
import { deskWith } from '../testing/open-desk';
import { openLink } from './link';

jest.mock('../server/request');
const asked = jest.mocked(request);

/** The stream of events as a browser has it, opened by hand. */
class Stream {
  static latest: Stream;
  onopen: () => void = () => undefined;
  onmessage: (message: { data: string }) => void = () => undefined;
  constructor() {
    Stream.latest = this;
  }
  close(): void {}
}

const job: JobView = { id: 'j', kind: 'import', name: 'Choir.wav', state: 'running', step: 'waiting', progress: 0 };
const settled = async () => {
  for (let i = 0; i < 10; i++) await Promise.resolve();
};

/** A page that came with a job, and begins to listen. */
function listening(jobs: readonly JobView[]) {
  globalThis.EventSource = Stream as unknown as typeof EventSource;
  const desk = deskWith(emptySong('Link'));
  jobs.forEach((job) => useJobs.of(desk).put(job));
  openLink(desk);
  return { stateOf: (id: string) => useJobs.of(desk).jobs[id].state, stream: Stream.latest };
}

beforeEach(() => asked.mockReset());

test('work that ended before the page began to listen is told of', async () => {
  asked.mockResolvedValue({ jobs: [{ ...job, state: 'done', progress: 1 }] });
  const { stateOf, stream } = listening([job]);
  expect(stateOf('j')).toBe('running');
  stream.onopen();
  await settled();
  expect(stateOf('j')).toBe('done');
});

test('what is heard while the answer is on its way is newer; work that is gone has failed; an upload is left alone', async () => {
  let answer: (value: unknown) => void = () => undefined;
  asked.mockReturnValue(new Promise((resolve) => (answer = resolve)));
  const upload = { ...job, id: 'u', isUpload: true };
  const { stateOf, stream } = listening([job, { ...job, id: 'gone' }, upload]);
  stream.onopen();
  stream.onmessage({ data: JSON.stringify({ type: 'job', job: { ...job, state: 'done' } }) });
  answer({ jobs: [job] });
  await settled();
  expect([stateOf('j'), stateOf('gone'), stateOf('u')]).toEqual(['done', 'failed', 'running']);
});

test('where nothing runs nobody is asked', async () => {
  const { stream } = listening([{ ...job, state: 'done' }]);
  stream.onopen();
  await settled();
  expect(asked).not.toHaveBeenCalled();
});
