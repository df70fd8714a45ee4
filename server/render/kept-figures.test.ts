import { once } from './kept-figures';

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

/** Something that is measured until it is told what came out. */
function measurement(key: string, graceMs?: number) {
  let tell: (value: string) => void = () => undefined;
  const signals: AbortSignal[] = [];
  const measure = (signal: AbortSignal) => {
    signals.push(signal);
    return new Promise<string>((resolve, reject) => {
      tell = resolve;
      signal.addEventListener('abort', () => reject(signal.reason as Error));
    });
  };
  const ask = (signal = new AbortController().signal) => once(key, measure, () => 10, signal, { graceMs });
  return { ask, signals, tell: (value: string) => tell(value) };
}

test('who asks at the same time shares one measurement, and who asks later has what was kept', async () => {
  const { ask, signals, tell } = measurement('shared');
  const answers = [ask(), ask()];
  tell('five');
  expect(await Promise.all(answers)).toEqual(['five', 'five']);
  expect(await ask()).toBe('five');
  expect(signals).toHaveLength(1);
});

test('one who leaves is answered at once and disturbs nobody else', async () => {
  const { ask, signals, tell } = measurement('left by one');
  const leaver = new AbortController();
  const left = ask(leaver.signal);
  const stayed = ask();
  leaver.abort();
  await expect(left).rejects.toMatchObject({ name: 'AbortError' });
  jest.advanceTimersByTime(60_000);
  expect(signals[0].aborted).toBe(false);
  tell('six');
  expect(await stayed).toBe('six');
  await expect(ask(leaver.signal)).rejects.toMatchObject({ name: 'AbortError' });
});

test('left by all it goes on for a moment: who comes back finds it under way, what ends in time is kept', async () => {
  const { ask, signals, tell } = measurement('left by all');
  const leave = async () => {
    const leaver = new AbortController();
    const left = ask(leaver.signal);
    leaver.abort();
    await expect(left).rejects.toMatchObject({ name: 'AbortError' });
  };
  await leave();
  jest.advanceTimersByTime(400);
  await leave();
  jest.advanceTimersByTime(400);
  expect(signals.map(({ aborted }) => aborted)).toEqual([false]);
  tell('seven');
  await Promise.resolve();
  expect(await ask()).toBe('seven');
  expect(signals).toHaveLength(1);
});

test('left by all for longer it ends, and is begun anew when it is asked for', async () => {
  const { ask, signals, tell } = measurement('ended');
  const leaver = new AbortController();
  const left = ask(leaver.signal);
  leaver.abort();
  await expect(left).rejects.toMatchObject({ name: 'AbortError' });
  jest.advanceTimersByTime(500);
  expect(signals[0].aborted).toBe(true);
  const again = ask();
  tell('eight');
  expect(await again).toBe('eight');
  expect(signals).toHaveLength(2);
});

test('all who wait are told how far it is, until they leave; a longer leave is granted where it is asked for', async () => {
  let tell: (value: string) => void = () => undefined;
  let far: (step: string, progress: number) => void = () => undefined;
  const measure = jest.fn((_: AbortSignal, report: typeof far) => {
    far = report;
    return new Promise<string>((resolve) => (tell = resolve));
  });
  const ask = (signal: AbortSignal, report: typeof far) =>
    once('far', measure, () => 10, signal, { report, graceMs: 5000 });
  const reports = [jest.fn(), jest.fn(), jest.fn()];
  const leaver = new AbortController();
  const left = [ask(leaver.signal, reports[0]), ask(leaver.signal, reports[1])];
  far('measuring', 0.25);
  leaver.abort();
  for (const one of left) await expect(one).rejects.toMatchObject({ name: 'AbortError' });
  jest.advanceTimersByTime(4900);
  const stayed = ask(new AbortController().signal, reports[2]);
  far('measuring', 0.5);
  tell('ten');
  expect(await stayed).toBe('ten');
  expect(measure).toHaveBeenCalledTimes(1);
  expect(reports.map(({ mock }) => mock.calls)).toEqual([
    [['measuring', 0.25]],
    [['measuring', 0.25]],
    [['measuring', 0.5]],
  ]);
});

test('what goes on for longer after all have left ends when another such measurement begins, and not for a short one', async () => {
  const [first, second, short] = [measurement('long', 5000), measurement('longer', 5000), measurement('short')];
  const leaver = new AbortController();
  const left = first.ask(leaver.signal);
  leaver.abort();
  await expect(left).rejects.toMatchObject({ name: 'AbortError' });
  const answers = [short.ask()];
  expect(first.signals[0].aborted).toBe(false);
  answers.push(second.ask());
  expect(first.signals[0].aborted).toBe(true);
  const again = first.ask();
  expect([second.signals[0].aborted, short.signals[0].aborted]).toEqual([false, false]);
  for (const { tell } of [first, second, short]) tell('eleven');
  expect(await Promise.all([...answers, again])).toEqual(['eleven', 'eleven', 'eleven']);
});

test('what fails is not kept', async () => {
  const signal = new AbortController().signal;
  const fails = once(
    'fails',
    () => Promise.reject(new Error('no sound')),
    () => 10,
    signal,
  );
  await expect(fails).rejects.toThrow('no sound');
  expect(
    await once(
      'fails',
      () => Promise.resolve('nine'),
      () => 10,
      signal,
    ),
  ).toBe('nine');
});
