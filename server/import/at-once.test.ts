import { eachFile } from './at-once';

const later = () => new Promise((done) => setTimeout(done, 5));

test('each file has its turn, no more at once than is said', async () => {
  const seen: [string, number][] = [];
  let busy = 0;
  let most = 0;
  await eachFile(
    ['a', 'b', 'c', 'd', 'e'],
    async (file, index) => {
      most = Math.max(most, ++busy);
      seen.push([file, index]);
      await later();
      busy--;
    },
    2,
  );
  expect(most).toBe(2);
  expect(seen).toEqual(['a', 'b', 'c', 'd', 'e'].map((file, index) => [file, index]));
  await eachFile([], () => Promise.reject(new Error('never')));
});

test('after a fault nothing else is begun, what has begun ends first, and the first fault is told', async () => {
  const ended: string[] = [];
  const run = eachFile(
    ['slow', 'bad', 'never'],
    async (file) => {
      if (file === 'bad') throw new Error('bad');
      await later();
      ended.push(file);
    },
    2,
  );
  await expect(run).rejects.toThrow('bad');
  expect(ended).toEqual(['slow']);
});
