import type { Suspect } from '@/core/suspects';
import { runInWorker } from '../workers/pool';
import { once, storedRecording } from './measured';
import { withWholeRecordings } from './mending';
import { readIfWhole, writeSealed } from './sealed';
import { needAudio, suspectsPath } from './store';

/**
 * What may be wrong with a recording; looked for when it is asked for the first time, and kept.
 * @throws OrvidError `not-found`, `damaged`
 */
export async function readSuspects(audioId: string): Promise<Suspect[]> {
  const kept = async () => {
    const text = await readIfWhole(suspectsPath(audioId));
    return text && (JSON.parse(Buffer.from(text).toString('utf8')) as Suspect[]);
  };
  const known = await kept();
  if (known) return known;
  await needAudio(audioId);
  await once(`suspects ${audioId}`, async () => {
    const found = await withWholeRecordings([audioId], async () =>
      runInWorker<Suspect[]>('suspects', await storedRecording(audioId)),
    );
    await writeSealed(suspectsPath(audioId), Buffer.from(JSON.stringify(found)));
  });
  return (await kept())!;
}
