import { IS_HERE, openWorker } from './open-worker';

/** Workers as the page opens them, and what they were told. */
class FakeWorker {
  static all: FakeWorker[] = [];
  readonly told: [unknown, Transferable[]][] = [];
  isOver = false;
  onmessage: (event: { data: unknown; ports: MessagePort[] }) => void = () => undefined;
  onerror: (() => void) | null = null;

  constructor(readonly url: string) {
    FakeWorker.all.push(this);
  }

  postMessage(message: unknown, transfer: Transferable[]) {
    this.told.push([message, transfer]);
  }

  terminate() {
    this.isOver = true;
  }
}

const said = jest.fn();
const latest = () => FakeWorker.all.at(-1)!;
const says = (data: unknown) => latest().onmessage({ data, ports: [] });

beforeEach(() => {
  jest.useFakeTimers();
  FakeWorker.all = [];
  said.mockReset();
  Object.assign(globalThis, { Worker: FakeWorker });
});
afterEach(() => jest.useRealTimers());

test('what it is told before it is here waits, in its order; then it is told at once, and heard', () => {
  const worker = openWorker('/audio/some.js', said);
  const heard: unknown[] = [];
  worker.addEventListener('message', (event) => heard.push((event as MessageEvent).data));
  const sound = new ArrayBuffer(8);
  worker.postMessage('first');
  worker.postMessage('second', [sound]);
  expect(latest().told).toEqual([]);
  says(IS_HERE);
  worker.postMessage('third');
  expect(latest().told).toEqual([
    ['first', []],
    ['second', [sound]],
    ['third', []],
  ]);
  says('an answer');
  expect(heard).toEqual(['an answer']);
  expect(said).not.toHaveBeenCalled();
});

test('a script that does not come is asked for again, ever more seldom, said once; what waits is not lost', () => {
  const worker = openWorker('/audio/some.js', said);
  worker.postMessage('first');
  const waits: number[] = [];
  for (let i = 0; i < 9; i++) {
    const before = FakeWorker.all.length;
    latest().onerror!();
    expect(said).toHaveBeenCalledTimes(i === 0 ? 0 : 1);
    let waited = 0;
    for (; FakeWorker.all.length === before; waited += 100) jest.advanceTimersByTime(100);
    waits.push(waited);
  }
  expect(waits).toEqual([300, 600, 1200, 2400, 4800, 9600, 15_000, 15_000, 15_000]);
  expect(said).toHaveBeenCalledWith(expect.stringContaining('could not be had from the server'));
  says(IS_HERE);
  expect(latest().told).toEqual([['first', []]]);
  expect(new Set(FakeWorker.all.map(({ url }) => url))).toEqual(new Set(['/audio/some.js']));
});

test('one that fails while it works is said, and not opened again', () => {
  openWorker('/audio/some.js', said);
  says(IS_HERE);
  latest().onerror!();
  jest.advanceTimersByTime(60_000);
  expect(said).toHaveBeenCalledWith(expect.stringContaining('reload the page'));
  expect(FakeWorker.all).toHaveLength(1);
});

test('one that is over is not asked for again', () => {
  const worker = openWorker('/audio/some.js', said);
  latest().onerror!();
  worker.terminate();
  jest.advanceTimersByTime(60_000);
  expect(FakeWorker.all.map(({ isOver }) => isOver)).toEqual([true]);
});
