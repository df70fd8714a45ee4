import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { asOrvidError } from '@/core/errors';
import { discardLeftovers } from './audio/store';
import { config } from './config';
import { claimFolder } from './database/claim';
import { closeDatabase, database } from './database/client';
import { keepDailyBackups } from './database/backup';
import { guardRequests } from './http/guard';
import { leaveJobs, resumeJobs } from './jobs/jobs';
import './import/import-track';
import './bundle/bundle-job';
import './proof/proof-job';
import './render/render-job';
import { clearSpaceDaily } from './space';
import { log, openLogFile } from './log';
import { endPools } from './workers/pool';

/** What happens when the server starts and when it stops. */

/** Stopping takes no longer than this. */
const STOP_WITHIN_MS = 1500;
const AGAIN_AFTER_MS = 5000;

function endWith(message: string): never {
  console.error(message);
  process.exit(1);
}

async function stop(): Promise<void> {
  leaveJobs();
  await endPools();
  await closeDatabase();
}

function stopOnSignals(): void {
  let isStopping = false;
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      if (isStopping) process.exit(130);
      isStopping = true;
      setTimeout(() => process.exit(0), STOP_WITHIN_MS).unref();
      void stop().then(
        () => process.exit(0),
        (error: unknown) => {
          log.error({ error }, 'stopping failed');
          // An end in order would close the database, and its log, which the disk cannot read, would be gone.
          if (asOrvidError(error).code === 'disk-failing') process.kill(process.pid, 'SIGKILL');
          process.exit(1);
        },
      );
    });
}

/** Takes up what a crash has interrupted, and clears what it has left. Where the database cannot be opened yet, that is tried again. */
async function takeUp(): Promise<void> {
  try {
    const tasks = await resumeJobs();
    await discardLeftovers(tasks.flatMap((task) => ('upload' in task ? [task.upload] : [])));
  } catch (error) {
    log.error({ error }, 'what was interrupted could not be taken up yet');
    setTimeout(() => void takeUp(), AGAIN_AFTER_MS).unref();
    return;
  }
  keepDailyBackups();
  clearSpaceDaily();
}

/** Makes the folder this server's, opens the database, and takes up what was begun. A server that cannot work says why and ends. */
export async function start(): Promise<void> {
  stopOnSignals();
  guardRequests();
  try {
    const { dataDir } = config();
    mkdirSync(dataDir, { recursive: true });
    await claimFolder(dataDir);
    openLogFile(path.join(dataDir, 'log', 'orvid.log'));
    await database();
  } catch (thrown) {
    const { code, message, kept } = asOrvidError(thrown);
    if (code !== 'internal' && code !== 'disk-failing') endWith([message, kept].filter(Boolean).join(' '));
    // It may pass: every request tries to open the database anew.
    log.error({ error: thrown }, 'the database could not be opened');
  }
  await takeUp();
}
