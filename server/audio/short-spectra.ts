import { readFile } from 'node:fs/promises';
import { OrvidError } from '@/core/errors';
import { singleton } from '../singleton';
import { runInWorker } from '../workers/pool';
import { discard, findAudio, pagesPath, settle, shortSpectraPath, temporaryPath } from './store';

const running = () => singleton('short-spectra', () => new Map<string, Promise<void>>());

async function measure(audioId: string): Promise<void> {
  const row = await findAudio(audioId);
  if (!row) throw new OrvidError('not-found', 'There is no recording of this name in the store.');
  const target = await temporaryPath();
  try {
    const { channels, rateHz, lengthFrames } = row;
    await runInWorker('measureShort', { pages: pagesPath(audioId), target, channels, rateHz, lengthFrames });
    await settle(target, shortSpectraPath(audioId));
  } finally {
    await discard(target);
  }
}

/**
 * What a recording is like over time, bytes as `ShortSpectraAnalyser` gives them; measured when it is asked for the first time, and kept.
 * @throws OrvidError `not-found`
 */
export async function readShortSpectra(audioId: string): Promise<Uint8Array> {
  const kept = () => readFile(shortSpectraPath(audioId));
  try {
    return await kept();
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code !== 'ENOENT') throw thrown;
  }
  let run = running().get(audioId);
  if (!run) {
    run = measure(audioId).finally(() => running().delete(audioId));
    running().set(audioId, run);
  }
  await run;
  return kept();
}
