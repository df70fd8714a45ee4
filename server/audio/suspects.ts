import { readFile, writeFile } from 'node:fs/promises';
import type { Suspect } from '@/core/suspects';
import { runInWorker } from '../workers/pool';
import { once, storedRecording } from './measured';
import { discard, settle, suspectsPath, temporaryPath } from './store';

/**
 * What may be wrong with a recording; looked for when it is asked for the first time, and kept.
 * @throws OrvidError `not-found`
 */
export async function readSuspects(audioId: string): Promise<Suspect[]> {
  const kept = async () => JSON.parse(await readFile(suspectsPath(audioId), 'utf8')) as Suspect[];
  try {
    return await kept();
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code !== 'ENOENT') throw thrown;
  }
  const recording = await storedRecording(audioId);
  await once(`suspects ${audioId}`, async () => {
    const temporary = await temporaryPath();
    try {
      await writeFile(temporary, JSON.stringify(await runInWorker<Suspect[]>('suspects', recording)), { flag: 'wx' });
      await settle(temporary, suspectsPath(audioId));
    } finally {
      await discard(temporary);
    }
  });
  return kept();
}
