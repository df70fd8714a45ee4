import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { ownDataFolder } from '../testing/data-folder';
import { runInWorker } from './pool';

const folder = ownDataFolder();

/** How nice the threads of this process are to others: field 19 of proc_pid_stat(5). */
const niceness = () =>
  readdirSync('/proc/self/task').map((thread) => {
    const stat = readFileSync(`/proc/self/task/${thread}/stat`, 'utf8');
    return Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[16]);
  });

test('threads that import give way to what answers, plays and draws; the server itself does not', async () => {
  const file = path.join(folder, 'some');
  writeFileSync(file, 'sound');
  const usual = Math.max(...niceness());
  await expect(runInWorker('hash', { file })).resolves.toMatch(/^[0-9a-f]{64}$/);
  expect(niceness().filter((nice) => nice > usual)).toHaveLength(1);
});
